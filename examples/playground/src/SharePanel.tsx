/** The state as a link or a file; a tryout to load and step through; the conversation as a tryout. */
import { useState } from 'react';
import { Button, Label, TextArea, TextField } from 'react-aria-components';
import { playStep } from './App.js';
import { keptOf, linkOf, stepsFromText, tryoutOf } from './keeping.js';
import { lineOf, messageOf, type Step, shortened, type Workshop } from './workshop.js';

interface ShareProps {
  readonly workshop: Workshop;
  readonly toPlay: readonly Step[];
  readonly onLoad: (steps: readonly Step[]) => void;
  readonly onPlayed: (rest: readonly Step[]) => void;
}

export function SharePanel({ workshop, toPlay, onLoad, onPlayed }: ShareProps) {
  const [text, setText] = useState('');
  const [problem, setProblem] = useState('');
  const [told, setTold] = useState('');
  const kept = keptOf(workshop);

  const attempt = async (what: () => Promise<void> | void) => {
    try {
      setProblem('');
      await what();
    } catch (error) {
      setProblem(messageOf(error));
    }
  };
  const play = async (steps: readonly Step[]) => {
    for (const step of steps) await playStep(workshop, step);
  };
  const [next, ...rest] = toPlay;

  return (
    <>
      <h2>Keep it</h2>
      {kept.steps.length === 0 ? (
        <p className="empty">Nothing was done yet. What you do in the room can be kept here.</p>
      ) : (
        <>
          <div className="buttons">
            <Button
              onPress={() => {
                history.replaceState(null, '', linkOf(kept));
                setTold('The address of this page holds it now.');
              }}
            >
              Make a link
            </Button>
            <Button onPress={() => save('mallet.json', kept)}>Save a file</Button>
            <Button onPress={() => save('afternoon.tryout.json', tryoutOf(workshop, 'Recorded in the playground'))}>
              Save a tryout
            </Button>
            <Button onPress={() => setText(JSON.stringify(tryoutOf(workshop, 'Recorded in the playground'), null, 2))}>
              Show the tryout
            </Button>
          </div>
          <p aria-live="polite">{told === '' ? `${kept.steps.length} steps so far.` : told}</p>
        </>
      )}
      <h2>Load it</h2>
      <TextField value={text} onChange={setText}>
        <Label>A tryout or a file from here, in YAML or JSON</Label>
        <TextArea rows={8} spellCheck="false" />
      </TextField>
      {problem === '' ? null : (
        <p role="alert" className="problem">
          {problem}
        </p>
      )}
      <div className="buttons">
        <Button isDisabled={text.trim() === ''} onPress={() => void attempt(() => onLoad(stepsFromText(text)))}>
          Begin anew with it
        </Button>
      </div>
      {next === undefined ? null : (
        <>
          <p>
            {toPlay.length} steps to play. Next:{' '}
            <b>
              {'person' in next
                ? `${next.person}: ${shortened(lineOf(next))}`
                : 'wait' in next
                  ? 'some time passes'
                  : 'something is changed'}
            </b>
          </p>
          <div className="buttons">
            <Button
              onPress={() =>
                void attempt(async () => {
                  onPlayed(rest);
                  await play([next]);
                })
              }
            >
              Next step
            </Button>
            <Button
              onPress={() =>
                void attempt(async () => {
                  onPlayed([]);
                  await play(toPlay);
                })
              }
            >
              Play all
            </Button>
          </div>
        </>
      )}
    </>
  );
}

function save(name: string, data: object): void {
  const url = URL.createObjectURL(new Blob([JSON.stringify(data, null, 2)], { type: 'application/json' }));
  const link = document.createElement('a');
  link.href = url;
  link.download = name;
  link.click();
  URL.revokeObjectURL(url);
}
