/** Which characters part words and which begin one. Hot path: bench/rows/calls. */

export function isSpace(unit: number): boolean {
  if (unit < 0x80) return unit === 0x20 || (unit >= 0x09 && unit <= 0x0d);
  return (
    unit === 0xa0 ||
    unit === 0x1680 ||
    (unit >= 0x2000 && unit <= 0x200a) ||
    unit === 0x2028 ||
    unit === 0x2029 ||
    unit === 0x202f ||
    unit === 0x205f ||
    unit === 0x3000
  );
}

/** Space, and what nobody sees: around words both are left out. */
export function isBlank(unit: number): boolean {
  if (unit < 0x80) return unit === 0x20 || (unit >= 0x09 && unit <= 0x0d);
  return (
    unit === 0xad ||
    (unit >= 0x200b && unit <= 0x200f) ||
    (unit >= 0x202a && unit <= 0x202e) ||
    (unit >= 0x2060 && unit <= 0x206f) ||
    unit === 0xfeff ||
    isSpace(unit)
  );
}

const wordCharacter = /[\p{L}\p{N}]/u;

/** Whether a letter or digit, of any script, stands at `position`. */
export function isWordAt(text: string, position: number): boolean {
  const unit = text.charCodeAt(position);
  if (unit < 0x80) {
    return (unit >= 0x61 && unit <= 0x7a) || (unit >= 0x41 && unit <= 0x5a) || (unit >= 0x30 && unit <= 0x39);
  }
  const point = text.codePointAt(position);
  return point !== undefined && wordCharacter.test(String.fromCodePoint(point));
}

/** The signs that close what the sign at hand opens; `undefined` where it opens nothing. */
export function closersOf(unit: number): string | undefined {
  switch (unit) {
    case 0x22:
      return '"';
    case 0x27:
      return "'";
    case 0x201c: // “
    case 0x201d: // ”
      return '”';
    case 0x2018: // ‘
    case 0x2019: // ’
      return '’';
    case 0x201e: // „
      return '“”';
    case 0x201a: // ‚
      return '‘’';
    case 0xab: // «
      return '»';
    case 0xbb: // »
      return '«';
    case 0x2039: // ‹
      return '›';
    default:
      return undefined;
  }
}
