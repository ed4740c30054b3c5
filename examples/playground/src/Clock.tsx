/** The virtual clock: to stand still, run, run fast, or jump. */
import { Button, Radio, RadioGroup } from 'react-aria-components';
import { timeOfDay, type Workshop } from './workshop.js';

const speeds = [
  { speed: 0, label: 'Still' },
  { speed: 1, label: 'Real' },
  { speed: 60, label: 'Fast' },
];

const jumps = [
  { ms: 10_000, label: '+10 s' },
  { ms: 60_000, label: '+1 min' },
  { ms: 600_000, label: '+10 min' },
];

export function Clock({ workshop }: { readonly workshop: Workshop }) {
  return (
    <section className="clock" aria-label="Clock">
      <output aria-label="Time">{timeOfDay(workshop.clock.now())}</output>
      <RadioGroup
        className="choices"
        aria-label="How time passes"
        orientation="horizontal"
        value={String(workshop.speed)}
        onChange={(value) => workshop.set({ speed: Number(value) })}
      >
        {speeds.map(({ speed, label }) => (
          <Radio key={speed} value={String(speed)}>
            {label}
          </Radio>
        ))}
      </RadioGroup>
      <div className="buttons">
        {jumps.map(({ ms, label }) => (
          <Button key={ms} onPress={() => void workshop.do({ wait: ms })}>
            {label}
          </Button>
        ))}
      </div>
    </section>
  );
}
