/** Dates and money as Mallet says them. */

const day = once({ weekday: 'long', day: 'numeric', month: 'long' });
const moment = once({ weekday: 'long', hour: '2-digit', minute: '2-digit' });

const A_DAY_MS = 86_400_000;

/** `Tuesday 12 May`, or `Saturday at 16:00` within a day. */
export function whenDue(until: number, now: number): string {
  return Math.abs(until - now) < A_DAY_MS
    ? moment()
        .format(until)
        .replace(/,? (\d\d:)/, ' at $1')
    : day().format(until).replace(',', '');
}

const short = once({ weekday: 'short', day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' });

/** `Sun 10 May 09:00 to Sun 10 May 17:00`. */
export function period(from: number, to: number): string {
  const shown = (at: number) => short().format(at).replace(/,/g, '');
  return `${shown(from)} to ${shown(to)}`;
}

/** `£1.50`, `40p`. */
export function money(pence: number): string {
  return pence < 100 ? `${pence}p` : `£${(pence / 100).toFixed(2)}`;
}

/** Made when first needed: each takes a while to make. */
function once(options: Intl.DateTimeFormatOptions): () => Intl.DateTimeFormat {
  let made: Intl.DateTimeFormat | undefined;
  return () => {
    made ??= new Intl.DateTimeFormat('en-GB', { ...options, timeZone: 'UTC' });
    return made;
  };
}
