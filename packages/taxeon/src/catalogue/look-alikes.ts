/** Names that are different and look the same. */
import { foldName } from '../base/text.js';

/** Letters of other scripts that are drawn as a Latin one. Source: Unicode TS #39, confusables.txt, the part that small letters need. */
const lookAlikes: ReadonlyMap<string, string> = new Map(
  Object.entries({
    a: 'аα',
    b: 'Ьв',
    c: 'сϲ',
    d: 'ԁ',
    e: 'её',
    g: 'ɡ',
    h: 'һ',
    i: 'іιı',
    j: 'ј',
    k: 'кκ',
    l: 'ӏ1|',
    m: 'м',
    n: 'п',
    o: 'оοσ0',
    p: 'рρ',
    q: 'ԛ',
    r: 'г',
    s: 'ѕ',
    t: 'тτ',
    u: 'υս',
    v: 'νѵ',
    w: 'ԝω',
    x: 'хχ',
    y: 'уγ',
    z: 'ᴢ',
  }).flatMap(([latin, others]) => [...others].map((other) => [other, latin] as const)),
);

const anyLookAlike = new RegExp(`[${[...lookAlikes.keys()].join('')}]`, 'gu');

/** Two names with the same skeleton look alike. */
export function skeleton(name: string): string {
  return foldName(name).replace(anyLookAlike, (letter) => lookAlikes.get(letter) ?? letter);
}
