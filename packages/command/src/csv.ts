/** One line of CSV (RFC 4180). What a spreadsheet would take for a formula is text. */
export function csvLine(fields: readonly string[]): string {
  return fields.map(csvField).join(',');
}

function csvField(text: string): string {
  const safe = /^[=+\-@\t\r]/.test(text) ? `'${text}` : text;
  return /[",\r\n]/.test(safe) ? `"${safe.replaceAll('"', '""')}"` : safe;
}
