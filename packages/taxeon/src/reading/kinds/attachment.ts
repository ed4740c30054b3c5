import { aNumber, type Fields, texts } from '../../base/fields.js';
import { echoText } from '../../base/text.js';
import {
  type ArgOf,
  type ArgOptions,
  type DefaultFrom,
  type Exactly,
  makeArg,
  type NoOptions,
} from '../../commands/arg.js';
import { aboveMaximum, type Kind, type Misread, notOfShape } from '../../commands/kind.js';
import { type Attachment, isAttachment } from '../../contract/attachment.js';
import type { Expected } from '../../contract/expectation.js';
import { fileTaking } from '../files.js';

export interface AttachmentOptions extends ArgOptions<DefaultFrom<Attachment>> {
  /** Media types that are taken: `'image/png'`, `'image/*'`; all by default. */
  readonly types?: readonly string[];
  /** The most bytes; 8,000,000 by default. */
  readonly max?: number;
}

const fields: Fields<Omit<AttachmentOptions, keyof ArgOptions<unknown>>> = { types: texts, max: aNumber };

const MOST_BYTES = 8_000_000;
const typeForm = /^[a-z]+\/(?:\*|[a-z0-9][a-z0-9.+-]*)$/;

/**
 * A file that comes along: with the message on text, in the order of the arguments, or as an option by slash. It takes no
 * word of the line. The handler gets its name, size and type as the platform tells them, and reads what it holds.
 *
 * @example
 * arg.attachment({ description: 'A picture of the damage', types: ['image/*'], max: 2_000_000, optional: true })
 */
export function attachment<const Options extends AttachmentOptions = NoOptions>(
  options?: Exactly<Options, AttachmentOptions>,
): ArgOf<Attachment, 'attachment', Options> {
  const { types = [], max = MOST_BYTES } = (options ?? {}) as AttachmentOptions;
  const problems: string[] = [];
  if (Array.isArray(types) && !types.every((type) => typeForm.test(type)))
    problems.push(`has \`types: ${JSON.stringify(types)}\`; give media types such as 'image/png' or 'image/*'`);
  if (!(Number.isSafeInteger(max) && max > 0)) problems.push(`has \`max: ${max}\`; give a whole number of bytes`);
  const kind = attachmentKind(Array.isArray(types) ? types : [], max);
  return makeArg('attachment', kind, options as Options, problems, fields);
}

function attachmentKind(types: readonly string[], max: number): Kind<Attachment> {
  const check = (one: Attachment): Attachment | Misread => {
    if (types.length > 0 && !types.some((type) => isOfType(one.type, type))) return notOfShape;
    return one.size > max ? aboveMaximum : one;
  };
  return {
    name: 'attachment',
    expected: expectedFile(types, max),
    example: undefined,
    measure: 'size',
    tokens: 'attached',
    leavesQuoted: false,
    read(id, { attachments }) {
      const found = attachments.find((one) => one.id === id);
      return found === undefined ? notOfShape : check(found);
    },
    take: (value) => (isAttachment(value) ? check(value) : notOfShape),
    isValue: isAttachment,
    taking: fileTaking,
  };
}

function isOfType(told: string, wanted: string): boolean {
  const type = told.toLowerCase().split(';', 1)[0]?.trim() ?? '';
  return wanted.endsWith('/*') ? type.startsWith(wanted.slice(0, -1)) : type === wanted;
}

function expectedFile(types: readonly string[], max: number): Expected {
  const size = sizeInWords(max);
  const ofTypes = types.length === 0 ? '' : ` of the type ${types.map((type) => echoText(type)).join(', ')}`;
  return {
    key: 'attachment',
    parameters: { max: size, typed: types.length === 0 ? 'no' : 'yes', types: { oneOf: types } },
    english: `a file of at most ${size}${ofTypes}`,
  };
}

function sizeInWords(bytes: number): string {
  if (bytes < 1000) return `${bytes} B`;
  return bytes < 1_000_000 ? `${Math.floor(bytes / 100) / 10} kB` : `${Math.floor(bytes / 100_000) / 10} MB`;
}
