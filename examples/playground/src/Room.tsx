/** The room: who says what where, and what the bot answers, as a ledger. */

import type { Post } from '@taxeon/testing';
import { useEffect, useRef } from 'react';
import { Radio, RadioGroup } from 'react-aria-components';
import { plainText } from 'taxeon';
import { AskedForm } from './AskedForm.js';
import { Composer } from './Composer.js';
import { type FeedItem, type SaidItem, shortened, timeOfDay, type Workshop } from './workshop.js';

interface RoomProps {
  readonly workshop: Workshop;
  readonly onChoose: () => void;
}

export function Room({ workshop, onChoose }: RoomProps) {
  const shown = workshop.feed.filter((item) => isShown(item, workshop));
  const form = workshop.formHere();
  const end = useRef<HTMLLIElement>(null);
  const last = shown.at(-1)?.key;
  // biome-ignore lint/correctness/useExhaustiveDependencies: whenever something new stands at the end
  useEffect(() => {
    end.current?.scrollIntoView({ block: 'nearest' });
  }, [last]);
  return (
    <section className="room" aria-label="Room">
      <div className="whereabouts">
        <label>
          Where
          <select value={workshop.place} onChange={({ target }) => workshop.set({ place: target.value })}>
            {workshop.guilds.map((guild) => (
              <optgroup key={guild.id} label={guild.name}>
                {[...guild.channels.keys()].map((channel) => (
                  <option key={channel} value={`${guild.id}/${channel}`}>{`${guild.name} #${channel}`}</option>
                ))}
              </optgroup>
            ))}
            <option value="direct">Direct message</option>
          </select>
        </label>
        <RadioGroup
          className="choices"
          aria-label="Who is speaking"
          orientation="horizontal"
          value={workshop.speaker}
          onChange={(speaker) => workshop.set({ speaker })}
        >
          {workshop.peopleHere().map(({ id, name }) => (
            <Radio key={id} value={id}>
              {name}
            </Radio>
          ))}
        </RadioGroup>
      </div>
      <ol className="ledger" aria-label="Conversation" tabIndex={0}>
        {shown.length === 0 ? (
          <li className="empty">Nothing was said here yet. Type !help below, or choose somebody else above.</li>
        ) : null}
        {shown.map((item) =>
          item.kind === 'said' ? (
            <Said
              key={item.key}
              item={item}
              waitsMs={workshop.waitsFor(item)}
              isChosen={item.key === workshop.chosen}
              onChoose={() => {
                workshop.set({ chosen: item.key });
                onChoose();
              }}
            />
          ) : (
            <Answer key={item.key} post={workshop.posts[item.index] as Post} workshop={workshop} />
          ),
        )}
        <li ref={end} aria-hidden="true" />
      </ol>
      {form === undefined ? null : <AskedForm key={form.id} form={form} workshop={workshop} />}
      <Composer workshop={workshop} />
    </section>
  );
}

/** What a person in a place sees: their own private replies, nothing that is gone. */
function isShown(item: FeedItem, workshop: Workshop): boolean {
  const { speaker, place, clock, posts } = workshop;
  const channel = place === 'direct' ? `direct-${speaker}` : place;
  if (item.kind === 'said') return item.input.place.kind !== 'console' && item.input.place.channel.id === channel;
  const post = posts[item.index];
  if (post === undefined || post.place.kind === 'console' || post.place.channel.id !== channel) return false;
  const isGone = post.goneAt !== undefined && post.goneAt <= clock.now();
  return !isGone && (post.visibleTo === 'everyone' || post.visibleTo === speaker);
}

const marks = { completed: '✓', refused: '✗', invalid: '?', waiting: '…', failed: '!', ignored: '·' } as const;

interface SaidProps {
  readonly item: SaidItem;
  /** How long the bot still waits for an answer. */
  readonly waitsMs: number | undefined;
  readonly isChosen: boolean;
  readonly onChoose: () => void;
}

function Said({ item, waitsMs, isChosen, onChoose }: SaidProps) {
  const { input, line, outcome, state } = item;
  const became =
    outcome === undefined
      ? { 'at once': '…', typing: '… Mallet is typing', held: '… held open' }[state]
      : waitsMs === undefined
        ? marks[outcome.status]
        : `waits ${Math.ceil(waitsMs / 1000)} s`;
  return (
    <li className="said">
      <time>{timeOfDay(input.at)}</time>
      <b>{input.caller.name}</b>
      <button type="button" aria-pressed={isChosen} onClick={onChoose} title="Show what the layer did with it">
        <span className="line">{shortened(line)}</span>
        <span className={`mark ${outcome?.status ?? ''}`}>
          {became}
          <span className="for-readers"> {outcome?.status ?? 'running'}</span>
        </span>
      </button>
    </li>
  );
}

function Answer({ post, workshop }: { post: Post; workshop: Workshop }) {
  const { notice, visibleTo, goneAt, at, heldAt } = post;
  const notes = [
    visibleTo === 'everyone' || post.place.kind === 'direct' ? '' : `for ${nameOf(workshop, visibleTo)} alone`,
    goneAt === undefined ? '' : `goes in ${Math.ceil((goneAt - workshop.clock.now()) / 1000)} s`,
    heldAt === undefined ? '' : 'was held open',
  ].filter((note) => note !== '');
  return (
    <li className={`answer ${notice.tone ?? 'plain'}`}>
      <time>{timeOfDay(at)}</time>
      <b>Mallet</b>
      <div>
        {notice.heading === undefined ? null : <strong>{notice.heading}</strong>}
        {notice.amount === undefined ? null : (
          <progress
            value={notice.amount.done}
            max={notice.amount.asked}
            aria-label={plainText({ body: notice.body, amount: notice.amount })}
          />
        )}
        <p>{[notice.body, ...(notice.details ?? [])].filter((line) => line !== '').join('\n')}</p>
        {notes.length === 0 ? null : <small>{notes.join('; ')}</small>}
      </div>
    </li>
  );
}

function nameOf(workshop: Workshop, id: string): string {
  return workshop.platform.directory.people.get(id)?.name ?? id;
}
