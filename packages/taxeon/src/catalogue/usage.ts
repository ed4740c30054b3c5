/** How a command is written, derived from its arguments. */
import type { Slot, Slots } from '../reading/slots.js';

/** `<required> [optional] [many…] [--flag VALUE]`, without prefix and name. */
export function argumentNotation({ positional, flags }: Slots): string {
  const words = positional.map((slot) => {
    const many = typeof slot.kind.tokens === 'string' ? '…' : '';
    return isRequired(slot) ? `<${slot.name}${many}>` : `[${slot.name}${many}]`;
  });
  for (const { spelling, isSwitch } of flags?.all ?? []) words.push(isSwitch ? `[${spelling}]` : `[${spelling} VALUE]`);
  return words.join(' ');
}

function isRequired({ absent }: Slot): boolean {
  return absent.as === 'problem';
}
