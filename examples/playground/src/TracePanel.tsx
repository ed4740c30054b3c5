/** What the layer did with the chosen line: the tokens, the stages, the outcome. */
import type { Outcome } from 'taxeon';
import type { ReadToken, TracedStage } from 'taxeon/queries';
import { type SaidItem, shortened, type Workshop } from './workshop.js';

export function TracePanel({ workshop }: { readonly workshop: Workshop }) {
  const item = workshop.feed.find((one): one is SaidItem => one.kind === 'said' && one.key === workshop.chosen);
  if (item === undefined) {
    return <p className="empty">Type a line in the room, such as !borrow drill 2 days, or choose one that was said.</p>;
  }
  const { outcome, explanation } = item;
  if (outcome === undefined) {
    return <p className="empty">“{shortened(item.line)}” is running. Let time pass with the clock.</p>;
  }
  const trace = outcome.status === 'ignored' ? explanation : outcome.trace;
  return (
    <>
      <h2>What was read</h2>
      <TokenLine text={item.input.text ?? item.line} tokens={trace?.tokens ?? []} />
      <h2>The stages</h2>
      <ol className="stages">
        {(trace?.stages ?? []).map((stage) => (
          <Stage key={stage.name} stage={stage} />
        ))}
      </ol>
      <h2>The outcome</h2>
      <pre tabIndex={0} role="region" aria-label="The outcome as JSON">
        {outcomeText(outcome)}
      </pre>
    </>
  );
}

/** The line, with the argument that took each piece under it. */
function TokenLine({ text, tokens }: { readonly text: string; readonly tokens: readonly ReadToken[] }) {
  const sorted = [...tokens].sort((a, b) => a.span.start - b.span.start);
  const names = [...new Set(sorted.map(({ name }) => name))];
  let at = 0;
  const pieces = sorted.flatMap(({ span, takenBy, name }) => {
    const before = text.slice(at, span.start);
    at = Math.max(at, span.end);
    return [
      { key: `before ${span.start}`, text: before, name: '', hue: -1 },
      {
        key: `token ${span.start}`,
        text: text.slice(span.start, span.end),
        name: takenBy === 'nothing' ? 'nothing' : name,
        hue: names.indexOf(name),
      },
    ];
  });
  return (
    <p className="tokens">
      {pieces.map((piece) =>
        piece.hue < 0 ? (
          <span key={piece.key}>{piece.text}</span>
        ) : (
          <span key={piece.key} className={`token hue-${piece.hue % 5}`}>
            <span>{shortened(piece.text)}</span>
            <small>{piece.name}</small>
          </span>
        ),
      )}
      <span>{shortened(text.slice(at))}</span>
    </p>
  );
}

const signs = { passed: '✓', stopped: '✗', skipped: '·' } as const;

function Stage({ stage: { name, verdict, reason, tookMs } }: { readonly stage: TracedStage }) {
  return (
    <li className={verdict}>
      <span className="sign" role="img" aria-label={verdict}>
        {signs[verdict]}
      </span>
      <b>{name}</b>
      <span>{verdict === 'skipped' ? 'not reached' : shortened(reason) || 'passed'}</span>
      <small>{verdict === 'skipped' ? '' : `${tookMs.toFixed(1)} ms`}</small>
    </li>
  );
}

/** Without the trace, which stands above; people by id and name. */
function outcomeText(outcome: Outcome): string {
  const { trace: _, ...rest } = { trace: undefined, ...outcome };
  return shortened(JSON.stringify(plain(rest), null, 2));
}

function plain(value: unknown): unknown {
  if (value instanceof Date) return value.toISOString();
  if (value instanceof Set) return [...value];
  if (Array.isArray(value)) return value.map(plain);
  if (typeof value !== 'object' || value === null) return value;
  if ('kind' in value && 'id' in value && 'name' in value) return { id: value.id, name: value.name };
  return Object.fromEntries(Object.entries(value).map(([name, one]) => [name, plain(one)]));
}
