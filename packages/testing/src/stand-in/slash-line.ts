/** A slash call as one line: how it is typed where there is no form to fill in, and how it is printed. */

/** A command's path, and its options as they are typed. */
export interface SlashCall {
  readonly path: readonly string[];
  readonly options: Readonly<Record<string, string>>;
}

const part = /\s*(?:([^\s="]+)(?:=(?:"((?:[^"\\]|\\.)*)"|([^\s"]*)))?)(?=\s|$)/gsuy;

/**
 * Reads `/fine who=wren pence=50`; a value with spaces stands in quotes, a quote or a backslash in it behind a backslash.
 *
 * @throws SyntaxError naming the part that does not read.
 *
 * @example
 * readSlashLine('/fine who=wren pence=50'); // { path: ['fine'], options: { who: 'wren', pence: '50' } }
 */
export function readSlashLine(line: string): SlashCall {
  const path: string[] = [];
  const options: Record<string, string> = {};
  const text = line.trim().replace(/^\//, '');
  let at = 0;
  for (const match of text.matchAll(part)) {
    const [whole, name = '', quoted, bare] = match;
    at = match.index + whole.length;
    const value = quoted?.replace(/\\(.)/gsu, '$1') ?? bare;
    if (value !== undefined) options[name] = value;
    else if (Object.keys(options).length === 0) path.push(name);
    else throw new SyntaxError(`"${name}" has no value; write ${name}=…, and quotes around a value with spaces`);
  }
  if (at < text.length) throw new SyntaxError(`"${text.slice(at).trim()}" does not read; write name=value`);
  return { path, options };
}

/**
 * The line that `readSlashLine` reads back.
 *
 * @example
 * writeSlashLine(['fine'], { who: 'wren', pence: 50 }); // '/fine who=wren pence=50'
 */
export function writeSlashLine(path: readonly string[], options: Readonly<Record<string, unknown>> = {}): string {
  const given = Object.entries(options).map(([name, value]) => `${name}=${quotedValue(String(value))}`);
  return [`/${path.join(' ')}`, ...given].join(' ');
}

function quotedValue(value: string): string {
  return /[\s"\\]/.test(value) || value === '' ? `"${value.replace(/["\\]/g, '\\$&')}"` : value;
}
