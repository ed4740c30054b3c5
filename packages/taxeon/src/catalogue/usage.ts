/** How a command is written, derived from its arguments. */
import type { Slot } from '../reading/slots.js';

/** `<required> [optional] [tail…]`, without prefix and name. */
export function argumentNotation(slots: readonly Slot[]): string {
  return slots
    .map(({ name, kind, absent }) => {
      const many = kind.tokens === 'rest' ? '…' : '';
      return absent.as === 'problem' ? `<${name}${many}>` : `[${name}${many}]`;
    })
    .join(' ');
}
