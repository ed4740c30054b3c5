/** How a command is written, derived from its arguments. */
import type { Slot, Slots } from '../reading/slots.js';

/** `<required> [optional] [many…] [--flag VALUE] <📎 file>`, without prefix and name. */
export function argumentNotation({ positional, flags, attached = [] }: Slots): string {
  const words = positional.map(slotNotation);
  for (const { spelling, isSwitch } of flags?.all ?? []) words.push(isSwitch ? `[${spelling}]` : `[${spelling} VALUE]`);
  return [...words, ...attached.map(slotNotation)].join(' ');
}

/** One argument at its place in the line, or behind it where it is a file. */
export function slotNotation({ name, kind: { tokens }, absent }: Slot): string {
  const sign = tokens === 'attached' ? '📎 ' : '';
  const many = tokens === 'rest' || tokens === 'many' ? '…' : '';
  return absent.as === 'problem' ? `<${sign}${name}${many}>` : `[${sign}${name}${many}]`;
}
