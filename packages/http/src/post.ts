/** A post that is proved, read as data. Its sender is known; what it says is not trusted to be of the right form. */
import { isObject } from './given.js';
import type { Proved } from './proof.js';
import type { MediaType } from './receive.js';
import { PostRefusal } from './refusal.js';

/** What a system has posted. */
export interface HttpPost {
  /** The object of a JSON body, or the fields of a form. */
  readonly body: Readonly<Record<string, unknown>>;
  /**
   * What stands at a path in the body: `get('person', 'id')`, `get('files', 0)`. `undefined` where nothing does. It needs
   * no `this`.
   */
  get(...path: readonly (string | number)[]): unknown;
  /** A header, if the proof covers it: nothing else of the request can be trusted. */
  header(name: string): string | undefined;
  /** With the `origin` of the endpoint's options. */
  readonly url: URL;
}

export function postOf({ url, headers, type, body: bytes, covered }: Proved): HttpPost | PostRefusal {
  const body = parsedBody(type, bytes);
  if (body instanceof PostRefusal) return body;
  return {
    body,
    get: (...path) => path.reduce(valueAt, body),
    header(name) {
      if (covered?.includes(name.toLowerCase()) === false) return undefined;
      return headers.get(name) ?? undefined;
    },
    url,
  };
}

/** What stands in an object or a list; never what it inherits. */
export function valueAt(from: unknown, key: string | number): unknown {
  if (typeof from !== 'object' || from === null || !Object.hasOwn(from, key)) return undefined;
  return (from as Readonly<Record<string | number, unknown>>)[key];
}

function parsedBody(type: MediaType, bytes: Uint8Array): HttpPost['body'] | PostRefusal {
  let text: string;
  try {
    text = new TextDecoder('utf-8', { fatal: true }).decode(bytes);
  } catch {
    return new PostRefusal(400, 'its body is no UTF-8');
  }
  return type === 'form' ? formFields(text) : jsonOf(text);
}

function jsonOf(text: string): HttpPost['body'] | PostRefusal {
  try {
    const value: unknown = JSON.parse(text);
    if (isObject(value)) return value as HttpPost['body'];
    return new PostRefusal(400, 'its JSON is no object');
  } catch {
    return new PostRefusal(400, 'its body is no JSON');
  }
}

/** As application/x-www-form-urlencoded is read (URL Standard, 5.1), but for what that would guess: broken escapes, a field twice. */
function formFields(text: string): HttpPost['body'] | PostRefusal {
  const fields: Record<string, string> = Object.create(null);
  for (const pair of text.split('&')) {
    if (pair === '') continue;
    const at = pair.includes('=') ? pair.indexOf('=') : pair.length;
    try {
      const name = unescaped(pair.slice(0, at));
      if (Object.hasOwn(fields, name))
        return new PostRefusal(400, `its form has the field ${JSON.stringify(name)} twice`);
      fields[name] = unescaped(pair.slice(at + 1));
    } catch {
      return new PostRefusal(400, 'its form has an escape that does not read');
    }
  }
  return fields;
}

/** @throws URIError where an escape does not read */
function unescaped(text: string): string {
  return decodeURIComponent(text.replaceAll('+', ' '));
}
