/** Recognising an input that a platform delivers a second time. */

/** At least this many of the latest ids of a platform are remembered, at most twice as many. */
const REMEMBERED = 4096;

export class RecentIds {
  private readonly platforms = new Map<string, { young: Set<string>; old: Set<string> }>();

  /** Whether the id was seen before; remembers it. */
  seen(platform: string, id: string): boolean {
    let ids = this.platforms.get(platform);
    if (ids === undefined) {
      ids = { young: new Set(), old: new Set() };
      this.platforms.set(platform, ids);
    }
    if (this.knows(platform, id)) return true;
    if (ids.young.size >= REMEMBERED) {
      ids.old = ids.young;
      ids.young = new Set();
    }
    ids.young.add(id);
    return false;
  }

  knows(platform: string, id: string): boolean {
    const ids = this.platforms.get(platform);
    return ids !== undefined && (ids.young.has(id) || ids.old.has(id));
  }
}
