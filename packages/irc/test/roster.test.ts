import { EventEmitter } from 'node:events';
import { irc } from '@taxeon/irc';
import { describe, expect, test } from 'vitest';
import { followIrc } from '../src/follow.js';
import { createRoster } from '../src/roster.js';

const modes = { o: { rank: 30, role: 'steward', permissions: ['fine'] }, v: { rank: 10, permissions: ['borrow'] } };
const guild = createRoster(modes, 'account').guildOf('#Oddmere');
const wren = { nick: 'Wren', user: 'wren', host: 'marsh.example', account: 'wren-account' };

describe('who somebody is on IRC', () => {
  test('is their services account, which a nick cannot take over', () => {
    const roster = createRoster(modes, 'account');
    roster.joined('#oddmere', wren);
    expect(roster.membersNamed(guild, 'wren')).toMatchObject([{ id: 'wren-account' }]);
    roster.renamed('Wren', 'Bird');
    expect(roster.membersNamed(guild, 'bird')).toMatchObject([{ id: 'wren-account', name: 'Bird' }]);
    roster.joined('#oddmere', { nick: 'Wren', user: 'other', host: 'fen.example', account: false });
    expect(roster.membersNamed(guild, 'wren')).toMatchObject([{ id: 'guest other@fen.example' }]);
    roster.identified('Wren', 'other-account');
    expect(roster.membersNamed(guild, 'wren')).toMatchObject([{ id: 'other-account' }]);
  });

  test('is never somebody whose nick is the same text as an account', () => {
    const roster = createRoster(modes, 'account');
    roster.joined('#oddmere', { nick: 'wren-account', user: 'other', host: 'fen.example', account: 'pim-account' });
    const called = { kind: 'user', id: 'wren-account', name: 'wren-account' } as const;
    expect(roster.nickOf(called)).toBe('gone');
    expect(roster.user('wren-account')).toMatchObject({ id: 'pim-account' });
    roster.joined('#oddmere', wren);
    expect(roster.nickOf(called)).toMatchObject({ nick: 'Wren' });
    expect(roster.user('wren-account')).toMatchObject({ name: 'Wren' });
  });

  test('is user@host where that is configured', () => {
    const roster = createRoster(modes, 'user@host');
    roster.joined('#oddmere', wren);
    expect(roster.member(guild, 'wren@marsh.example')).toMatchObject({ name: 'Wren' });
    expect(roster.user('wren')).toEqual({ kind: 'user', id: 'wren@marsh.example', name: 'Wren' });
  });
});

test('whoever comes into a channel has no mode of somebody who was there with the same nick', () => {
  const roster = createRoster(modes, 'account');
  roster.listed('#oddmere', wren, ['o']);
  expect(roster.memberOf('#oddmere', wren)).toMatchObject({ rank: 30, permissions: new Set(['fine']) });
  roster.joined('#oddmere', { ...wren, account: 'other-account' });
  expect(roster.memberOf('#oddmere', wren)).toMatchObject({ rank: 0, permissions: new Set() });
});

test('whoever speaks without the tag of an account has none, where the server tags those who have', () => {
  for (const [tellsAccounts, id] of [
    [true, 'guest wren@marsh.example'],
    [false, 'wren-account'],
  ] as const) {
    const roster = createRoster(modes, 'account');
    roster.joined('#oddmere', wren);
    const client = Object.assign(new EventEmitter(), {
      caseLower: (name: string) => name.toLowerCase(),
      user: { nick: 'Mallet' },
      network: { options: { PREFIX: [] }, cap: { isEnabled: () => tellsAccounts }, supports: () => false },
    });
    const ids: string[] = [];
    followIrc(
      client as never,
      {
        roster,
        channels: { isWanted: () => true } as never,
        heard: ({ presence }) => void ids.push(roster.memberOf('#oddmere', presence).id),
      },
      async () => undefined,
    );
    const said = { nick: 'Wren', ident: 'wren', hostname: 'marsh.example', target: '#oddmere', message: '!lamp' };
    client.emit('privmsg', { ...said, from_server: false, tags: { account: 'wren-account' } });
    client.emit('privmsg', { ...said, from_server: false, tags: {} });
    expect(ids).toEqual(['wren-account', id]);
  }
});

test('who was in a channel that the bot comes into again is not known to be there still', () => {
  const roster = createRoster(modes, 'account');
  roster.listed('#oddmere', wren, ['o']);
  roster.forget('#Oddmere');
  expect(roster.membersNamed(guild, 'wr')).toEqual([]);
  expect(roster.user('wren-account')).toBeUndefined();
});

test.each([
  ['user@host', { user: 'wren' }, undefined],
  ['user@host', { user: '~wren' }, true],
  ['user@host', { user: undefined }, true],
  ['account', { account: 'wren-account' }, undefined],
  ['account', { account: false }, true],
] as const)('by %s, %j is a guest: %s', (identity, told, isGuest) => {
  const roster = createRoster(modes, identity);
  const presence = { ...wren, ...told };
  roster.joined('#oddmere', presence);
  expect(roster.memberOf('#oddmere', presence).isGuest).toBe(isGuest);
  expect(roster.userOf(presence).isGuest).toBe(isGuest);
});

test('who speaks from outside of a channel is not in it afterwards', () => {
  const roster = createRoster(modes, 'account');
  roster.joined('#oddmere', wren);
  expect(roster.memberOf('#oddmere', { nick: 'Pim', user: 'pim', host: 'fen.example' })).toMatchObject({ rank: 0 });
  expect(roster.membersNamed(guild, 'pim')).toEqual([]);
  expect(roster.memberOf('#oddmere', wren)).toMatchObject({ id: 'wren-account' });
});

test('names are compared as the server says, and the id of a guild is as its channel is configured', () => {
  const roster = createRoster(modes, 'account', [{ name: '#Shed[1]' }]);
  const rfc1459 = (name: string) =>
    name.replace(/[A-Z[\]\\^]/g, (sign) => String.fromCharCode(sign.charCodeAt(0) + 32));
  roster.begin('Mallet', rfc1459);
  expect(roster.guildOf('#shed{1}')).toEqual({ id: '#shed[1]', name: '#Shed[1]' });
  roster.joined('#shed{1}', { ...wren, nick: 'Wren[x]' });
  expect(roster.membersNamed(roster.guildOf('#Shed[1]'), 'wren{X')).toMatchObject([{ name: 'Wren[x]' }]);
  expect(roster.user('WREN{x}')).toMatchObject({ id: 'wren-account' });
});

test('modes add up to rank, roles and permissions, and leave with whoever leaves', () => {
  const roster = createRoster(modes, 'account');
  roster.listed('#oddmere', wren, ['o', 'v']);
  expect(roster.membersNamed(guild, 'wr')).toMatchObject([
    { rank: 30, roles: [{ name: 'steward' }], permissions: new Set(['fine', 'borrow']), ownsGuild: false },
  ]);
  roster.mode('#oddmere', 'wren', 'o', false);
  expect(roster.membersNamed(guild, 'wr')).toMatchObject([{ rank: 10, roles: [] }]);
  roster.left('#oddmere', 'Wren');
  roster.joined('#oddmere', wren);
  expect(roster.membersNamed(guild, 'wr')).toMatchObject([{ rank: 0 }]);
  roster.quit('WREN');
  expect(roster.membersNamed(guild, 'wr')).toEqual([]);
});

test.each<[object, string]>([
  [{ answersBy: 'Notice' }, '`answersBy` is "Notice"; give notice or message'],
  [{ silence: '5' }, '`silence` is "5"; give a duration, at least \'1s\''],
  [{ silence: { ms: 5 } }, "`silence` is an object; give a duration, at least '1s'"],
  [{ chanels: [] }, '`chanels` there is no such field; write channels'],
  [{ channels: ['oddmere'] }, 'give a list of names such as #oddmere, or { name, key }'],
  [{ channels: ['#a,#b'] }, 'give a list of names such as #oddmere, or { name, key }'],
  [{ channels: [{ name: '#a', key: 'two words' }] }, 'give a list of names such as #oddmere, or { name, key }'],
  [{ channels: [{ name: '#a', kye: 'x' }] }, 'give a list of names such as #oddmere, or { name, key }'],
  [{ nick: 'Mallet\r\nQUIT' }, 'give a text without white space'],
  [{ host: undefined }, '`host` is missing'],
  [{ password: 'secret\nQUIT' }, '`password` is not right; give a text without line breaks'],
  [{ login: { by: 'plain', acount: 'mallet', password: 'secret' } }, '`login` is not right; give how the bot logs in'],
  [{ login: { by: 'certificate', key: 'secret', certificate: 'c' } }, 'a certificate needs TLS'],
  [{ pace: '0 in 5ms' }, "give how many in how long, such as '5 in 10s'"],
  [{ tls: { trustAny: true } }, 'give true, false, or { trustsAny: true }'],
])('an option that would be read as another is refused: %j', (wrong, problem) => {
  const options = { host: 'localhost', nick: 'Mallet', channels: ['#oddmere'], ...wrong };
  expect(() => irc(options as never)).toThrow(problem);
  expect(() => irc(options as never)).not.toThrow(/secret/);
});

describe('guests behind one address, who share an id,', () => {
  const guest = (nick: string) => ({ nick, user: '~shed', host: 'marsh.example', account: false as const });
  function together(...nicks: readonly string[]) {
    const roster = createRoster(modes, 'account');
    for (const nick of nicks) roster.joined('#oddmere', guest(nick));
    return roster;
  }

  test('say so, for as long as there are several', () => {
    const roster = together('Wren', 'Pim');
    expect(roster.memberOf('#oddmere', guest('Wren'))).toMatchObject({ isGuest: true, sharesId: true });
    expect(roster.userOf(guest('Tobias'))).toMatchObject({ sharesId: true });
    roster.identified('Pim', 'pim-account');
    expect(roster.memberOf('#oddmere', guest('Wren')).sharesId).toBeUndefined();
    roster.identified('Pim', false);
    expect(roster.memberOf('#oddmere', guest('Wren')).sharesId).toBe(true);
    roster.quit('Pim');
    expect(roster.memberOf('#oddmere', guest('Wren')).sharesId).toBeUndefined();
  });

  test('are reached one by one, under whatever nick, and never one in place of another', () => {
    const roster = together('Wren', 'Pim');
    const caller = roster.memberOf('#oddmere', guest('Wren'));
    roster.renamed('Wren', 'Bird');
    roster.renamed('Pim', 'Wren');
    expect(roster.nickOf(caller)).toMatchObject({ nick: 'Bird' });
    roster.quit('Bird');
    expect(roster.nickOf(caller)).toBe('gone');
    roster.renamed('Wren', 'Pim');
    expect(roster.nickOf(caller)).toBe('gone');
    roster.joined('#oddmere', guest('Wren'));
    expect(roster.nickOf(caller)).toBe('gone');
  });

  test('are reached by a kept id and name only while it can mean nobody else', () => {
    const kept = { kind: 'user', id: 'guest ~shed@marsh.example', name: 'Wren' } as const;
    const roster = together('Wren');
    expect(roster.nickOf(kept)).toMatchObject({ nick: 'Wren' });
    expect(roster.nickOf({ ...kept, name: 'Bird' })).toBe('unseen');
    roster.joined('#oddmere', guest('Pim'));
    expect(roster.nickOf(kept)).toBe('gone');
  });

  test('all have their nick broken where the id is mentioned', () => {
    const roster = together('Wren', 'Pim');
    expect(roster.rings('Pim', ['guest ~shed@marsh.example'])).toBe(true);
    roster.quit('Wren');
    expect(roster.rings('Pim', ['guest ~shed@marsh.example'])).toBe(false);
  });
});

test('who proves who they are is reached under any of their nicks', () => {
  const roster = createRoster(modes, 'account');
  roster.joined('#oddmere', wren);
  const caller = roster.memberOf('#oddmere', wren);
  roster.joined('#oddmere', { ...wren, nick: 'Wren2', host: 'fen.example' });
  expect(roster.memberOf('#oddmere', wren).sharesId).toBeUndefined();
  roster.quit('Wren');
  expect(roster.nickOf(caller)).toMatchObject({ nick: 'Wren2' });
});
