/** Arguments that are read by the form of their texts alone, for lines that nobody has typed yet. */
import { isMisfit, type Kind, notOfShape, type ReadingContext } from '../commands/kind.js';
import { type Slots, slotsWith } from './slots.js';

/** Where nobody is, for what is read before anybody types it. */
export const nowhere: ReadingContext = {
  call: {},
  caller: { kind: 'console', id: 'console', name: 'console' },
  place: { kind: 'console' },
  guild: undefined,
  platform: undefined,
  now: 0,
  timeZone: 'UTC',
  locale: undefined,
  inEnglish: undefined,
  ownsBot: false,
  attachments: [],
};

/**
 * The same slots; what looks at more than the text is read by its shape, calling nothing of the developer's.
 *
 * @param isReal which of those kinds are read all the same
 */
export function byShape(slots: Slots, isReal: (kind: Kind<unknown>) => boolean): Slots {
  return slotsWith(slots, (slot) => ({
    kind: shapeOf(slot.kind, isReal),
    absent: slot.absent.as === 'problem' ? slot.absent : { as: 'undefined' },
    convert: undefined,
    mapsMembers: false,
  }));
}

function shapeOf(kind: Kind<unknown>, isReal: (kind: Kind<unknown>) => boolean): Kind<unknown> {
  if (kind.item !== undefined) {
    return { ...kind, item: { ...kind.item, kind: shapeOf(kind.item.kind, isReal), convert: undefined } };
  }
  if (kind.traits?.readsAlone === true || isReal(kind)) return kind;
  if (kind.traits?.boundsMove === true) {
    return { ...kind, read: (typed, context) => boundless(kind.read(typed, context), typed) };
  }
  const known = ofAnyText(kind);
  return { ...known, read: (typed, context) => (known.shape?.(typed, context) === false ? notOfShape : typed) };
}

/** A kind that gives the text that stands there. What may be named is not known before it is asked for: any text could. */
export function ofAnyText(kind: Kind<unknown>): Kind<unknown> {
  const { prepare, ...alone } = kind;
  return {
    ...alone,
    ...(prepare === undefined || kind.shape === undefined ? {} : { shape: () => true }),
    read: (typed) => typed,
  };
}

/** Whether a moment is too late is not known before a person types it. */
function boundless(read: unknown, typed: string): unknown {
  return isMisfit(read, 'above') || isMisfit(read, 'below') ? typed : read;
}
