/** Names that are different and look the same. */
import { foldName } from '../base/text.js';

/** Letters of other scripts that are drawn as a Latin one. Source: Unicode TS #39, confusables.txt, the part that small letters need. */
const lookAlikes: ReadonlyMap<string, string> = new Map(
  'aаα bЬв cсϲ dԁ eеё gɡ hһ iіιı jј kкκ lӏ1| mм nп oоοσ0 pрρ qԛ rг sѕ tтτ uυս vνѵ wԝω xхχ yуγ zᴢ'
    .split(' ')
    .flatMap(([latin = '', ...others]) => others.map((other) => [other, latin] as const)),
);

/** Two names with the same skeleton look alike. */
export function skeleton(name: string): string {
  return foldName(name).replace(/[^a-z]/gu, (letter) => lookAlikes.get(letter) ?? letter);
}
