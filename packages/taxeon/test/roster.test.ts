import { irc } from 'taxeon/irc';
import { describe, expect, test } from 'vitest';
import { createRoster, guildOfChannel } from '../src/platforms/irc/roster.js';

const modes = { o: { rank: 30, role: 'steward', permissions: ['fine'] }, v: { rank: 10, permissions: ['borrow'] } };
const guild = guildOfChannel('#Oddmere');
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
    expect(roster.byId('wren-account')).toBeUndefined();
    roster.joined('#oddmere', wren);
    expect(roster.byId('wren-account')).toMatchObject({ name: 'Wren' });
    expect(roster.user('wren-account')).toMatchObject({ name: 'Wren' });
    expect(roster.byNick('WREN-ACCOUNT')).toMatchObject({ id: 'pim-account' });
  });

  test('is user@host where that is configured', () => {
    const roster = createRoster(modes, 'user@host');
    roster.joined('#oddmere', wren);
    expect(roster.member(guild, 'wren@marsh.example')).toMatchObject({ name: 'Wren' });
    expect(roster.user('wren')).toEqual({ kind: 'user', id: 'wren@marsh.example', name: 'Wren' });
  });
});

test('who was in a channel that the bot comes into again is not known to be there still', () => {
  const roster = createRoster(modes, 'account');
  roster.listed('#oddmere', wren, ['o']);
  roster.forget('#Oddmere');
  expect(roster.membersNamed(guild, 'wr')).toEqual([]);
  expect(roster.byId('wren-account')).toBeUndefined();
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
  [{ answersBy: 'Notice' }, '`answersBy` is notice or message'],
  [{ silenceMs: 5 }, '`silenceMs` is at least 1000'],
  [{ silenceMs: 'soon' }, '`silenceMs` is at least 1000'],
])('an option that would be read as another is refused: %j', (wrong, problem) => {
  const options = { host: 'localhost', nick: 'Mallet', channels: ['#oddmere'], ...wrong };
  expect(() => irc(options as never)).toThrow(problem);
});
