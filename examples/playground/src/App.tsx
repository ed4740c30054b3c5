/** The page: the room on the left, what the layer tells about it on the right; one after the other on a phone. */
import { useEffect, useState, useSyncExternalStore } from 'react';
import { Button, Tab, TabList, TabPanel, Tabs } from 'react-aria-components';
import { AccessPanel } from './AccessPanel.js';
import { Clock } from './Clock.js';
import { stepsFromLink } from './keeping.js';
import { LimitsPanel } from './LimitsPanel.js';
import { RegistrationPanel } from './RegistrationPanel.js';
import { Room } from './Room.js';
import { SharePanel } from './SharePanel.js';
import { TracePanel } from './TracePanel.js';
import { messageOf, type Step, Workshop } from './workshop.js';

export function App() {
  const [workshop, setWorkshop] = useState(() => new Workshop());
  const [tab, setTab] = useState('trace');
  const [toPlay, setToPlay] = useState<readonly Step[]>([]);
  useSyncExternalStore(workshop.subscribe, () => workshop.version);
  useEffect(() => workshop.run(), [workshop]);
  useEffect(() => {
    void loadLink(workshop);
  }, [workshop]);

  /** Begins anew; what is loaded is played step by step, or all at once. */
  const restart = (steps: readonly Step[]) => {
    history.replaceState(null, '', location.pathname + location.search);
    setWorkshop(new Workshop());
    setToPlay(steps);
  };

  return (
    <div className="page">
      <header>
        <h1>Inside Mallet</h1>
        <p>What a command layer does with every line, at the Oddmere Tool Library.</p>
        <Clock workshop={workshop} />
      </header>
      {workshop.problem === undefined ? null : (
        <p role="alert" className="problem">
          {workshop.problem} <Button onPress={() => workshop.set({ problem: undefined })}>All right</Button>
        </p>
      )}
      <main>
        <Room workshop={workshop} onChoose={() => setTab('trace')} />
        <Tabs className="panels" selectedKey={tab} onSelectionChange={(key) => setTab(String(key))}>
          <TabList aria-label="What the layer tells">
            <Tab id="trace">Trace</Tab>
            <Tab id="access">Access</Tab>
            <Tab id="limits">Limits</Tab>
            <Tab id="registration">Registration</Tab>
            <Tab id="share">Share</Tab>
          </TabList>
          <TabPanel id="trace">
            <TracePanel workshop={workshop} />
          </TabPanel>
          <TabPanel id="access">
            <AccessPanel workshop={workshop} />
          </TabPanel>
          <TabPanel id="limits">
            <LimitsPanel workshop={workshop} />
          </TabPanel>
          <TabPanel id="registration">
            <RegistrationPanel workshop={workshop} />
          </TabPanel>
          <TabPanel id="share">
            <SharePanel workshop={workshop} toPlay={toPlay} onLoad={restart} onPlayed={setToPlay} />
          </TabPanel>
        </Tabs>
      </main>
    </div>
  );
}

async function loadLink(workshop: Workshop): Promise<void> {
  try {
    const kept = stepsFromLink(location.hash);
    for (const step of kept?.steps ?? []) await playStep(workshop, step);
  } catch (error) {
    workshop.set({ problem: messageOf(error) });
  }
}

/** A handler may wait for the time that a later step lets pass, so nobody waits for it. */
export async function playStep(workshop: Workshop, step: Step): Promise<void> {
  try {
    if ('person' in step)
      workshop.set({
        speaker: step.person,
        place: step.place.includes('/') || step.place === 'direct' ? step.place : workshop.place,
      });
    await Promise.race([workshop.do(step), new Promise((done) => setTimeout(done, 50))]);
  } catch (error) {
    throw new Error(`A step could not be played: ${messageOf(error)}`);
  }
}
