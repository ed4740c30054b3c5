/** Short references under which a failure is found again. */

const letters = '23456789abcdefghjkmnpqrstuvwxyz';

/** A short reference that a person can read out: eight letters and digits, none that look alike. */
export function randomReference(): string {
  const bytes = crypto.getRandomValues(new Uint8Array(8));
  return Array.from(bytes, (byte) => letters[byte % letters.length]).join('');
}
