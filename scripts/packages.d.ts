export const packages: readonly string[];
export function folderOf(name: string): string;
export function entriesOf(
  name: string,
): readonly { readonly entry: string; readonly built: string; readonly file: string }[];
