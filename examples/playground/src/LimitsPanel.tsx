/** What was granted and refused when, with the window that counts; and what counts now. */
import { useEffect, useState } from 'react';
import { durationInWords } from 'taxeon';
import { type Help, helpOf, type LimitTold } from 'taxeon/queries';
import { Timeline } from './Timeline.js';
import type { Workshop } from './workshop.js';

export function LimitsPanel({ workshop }: { readonly workshop: Workshop }) {
  const { judged, live, clock } = workshop;
  const rows = [...new Set(judged.map(({ person, command }) => `${person}: ${command}`))];
  const [row, setRow] = useState<string | undefined>();
  const chosen = row !== undefined && rows.includes(row) ? row : rows.at(-1);
  const limits = useLimits(workshop, chosen?.split(': ')[1]);
  if (rows.length === 0) {
    return (
      <p className="empty">Nothing was counted yet. Borrow something three times as Tobias: the third is refused.</p>
    );
  }
  return (
    <>
      <h2>Granted and refused</h2>
      <label>
        Window of
        <select value={chosen} onChange={({ target }) => setRow(target.value)}>
          {rows.map((one) => (
            <option key={one}>{one}</option>
          ))}
        </select>
      </label>
      <Timeline
        judged={judged}
        rows={rows}
        now={clock.now()}
        window={windowOf(limits)}
        row={rows.indexOf(chosen ?? '')}
      />
      <p className="legend">
        ● granted, ✕ refused; the shaded part is the window that counts. {limits.map(limitInWords).join('; ')}
      </p>
      <h2>What counts now</h2>
      {live.length === 0 ? (
        <p className="empty">Nothing any more: everything may be used again.</p>
      ) : (
        <table>
          <thead>
            <tr>
              <th scope="col">limit</th>
              <th scope="col">for</th>
              <th scope="col">uses</th>
              <th scope="col">the last ends in</th>
            </tr>
          </thead>
          <tbody>
            {live.map(({ id, key, uses, endsAt }) => (
              <tr key={`${id} ${key}`}>
                <th scope="row">{id.replace('stand-in/', '')}</th>
                <td>{key}</td>
                <td>{uses}</td>
                <td>{durationInWords(Math.max(1, endsAt - clock.now()))}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </>
  );
}

/** What help says of a command's limits. */
function useLimits(workshop: Workshop, command: string | undefined): readonly LimitTold[] {
  const [help, setHelp] = useState<Help | undefined>();
  useEffect(() => {
    let isCurrent = true;
    void helpOf(workshop.layer, workshop.typed(''), command, workshop.platform).then((found) => {
      if (isCurrent) setHelp(found);
    });
    return () => {
      isCurrent = false;
    };
  }, [workshop, command]);
  return help?.kind === 'command' ? help.limits : [];
}

function windowOf(limits: readonly LimitTold[]): number | undefined {
  return limits.find(({ windowMs }) => windowMs !== undefined)?.windowMs;
}

function limitInWords({ uses, windowMs, counts }: LimitTold): string {
  return windowMs === undefined
    ? `${uses} at once by ${counts}`
    : `${uses} in ${durationInWords(windowMs)} by ${counts}`;
}
