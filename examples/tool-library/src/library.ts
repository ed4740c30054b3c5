/** What the library lends, to whom, and who may use the machines. Knows nothing of chat. */

export const kinds = ['garden', 'power', 'hand'] as const;
export type Kind = (typeof kinds)[number];

export const skills = ['lathe', 'welder', 'chainsaw'] as const;
export type Skill = (typeof skills)[number];

export interface Tool {
  readonly name: string;
  readonly kind: Kind;
  /** The induction that a person must have had to borrow it. */
  readonly badge?: Skill;
}

/** Looks whether a tool stands where it belongs. Takes a while, and may fail. */
export type Scanner = (guild: string, tool: Tool) => Promise<boolean>;

export interface Loan {
  readonly tool: string;
  readonly borrower: string;
  /** Milliseconds since 1970-01-01 UTC. */
  readonly until: number;
  readonly note?: string;
}

export interface Badge {
  readonly holder: string;
  readonly skill: Skill;
  readonly until: number;
}

export interface Fine {
  readonly who: string;
  readonly pence: number;
  readonly tool?: string;
}

export interface Reservation {
  readonly tool: string;
  readonly holder: string;
  /** Milliseconds since 1970-01-01 UTC. */
  readonly from: number;
  readonly to: number;
  readonly together: readonly string[];
  readonly tentative: boolean;
  readonly note?: string;
}

/** All that a guild's library remembers; plain data. */
export interface Shelf {
  tools: readonly Tool[];
  loans: readonly Loan[];
  badges: readonly Badge[];
  fines: readonly Fine[];
  reservations: readonly Reservation[];
}

/** Where the shelves are kept between two calls. */
export interface ShelfStore {
  read(guild: string): Shelf;
  write(guild: string, shelf: Shelf): void;
}

const empty: Shelf = { tools: [], loans: [], badges: [], fines: [], reservations: [] };

/** Keeps shelves in memory, beginning with the tools of each guild and what is lent of them. */
export function memoryShelves(
  tools: Readonly<Record<string, readonly Tool[]>>,
  loans: Readonly<Record<string, readonly Loan[]>> = {},
): ShelfStore {
  const shelves = new Map<string, Shelf>();
  for (const [guild, list] of Object.entries(tools)) {
    shelves.set(guild, { ...empty, tools: list, loans: loans[guild] ?? [] });
  }
  return { read: (guild) => shelves.get(guild) ?? empty, write: (guild, shelf) => void shelves.set(guild, shelf) };
}

export interface ToolLibrary {
  tools(guild: string, kind?: Kind): readonly Tool[];
  loanOf(guild: string, tool: Tool): Loan | undefined;
  /** Loans whose time has passed. */
  overdue(guild: string, now: number): readonly Loan[];
  /** Whether a tool stands in its place. */
  scan(guild: string, tool: Tool): Promise<boolean>;
  lend(guild: string, loan: Loan): void;
  takeBack(guild: string, tool: Pick<Tool, 'name'>): void;
  hasBadge(guild: string, holder: string, skill: Skill, now: number): boolean;
  award(guild: string, badge: Badge): void;
  charge(guild: string, fine: Fine): void;
  /** The first firm reservation of a tool that is in the way of another. */
  clash(guild: string, tool: Tool, from: number, to: number): Reservation | undefined;
  reserve(guild: string, reservation: Reservation): void;
  /** All that a person owes, in pence. */
  owed(guild: string, who: string): number;
}

/** @param scan how tools are counted; without one, all are there */
export function toolLibrary(store: ShelfStore, scan: Scanner = async () => true): ToolLibrary {
  function change(guild: string, changed: (shelf: Shelf) => Partial<Shelf>): void {
    const shelf = store.read(guild);
    store.write(guild, { ...shelf, ...changed(shelf) });
  }

  return {
    tools: (guild, kind) => store.read(guild).tools.filter((tool) => kind === undefined || tool.kind === kind),
    loanOf: (guild, { name }) => store.read(guild).loans.find((loan) => loan.tool === name),
    overdue: (guild, now) => store.read(guild).loans.filter((loan) => loan.until < now),
    scan,
    lend: (guild, loan) => change(guild, ({ loans }) => ({ loans: [...loans, loan] })),
    takeBack: (guild, { name }) =>
      change(guild, ({ loans }) => ({ loans: loans.filter((loan) => loan.tool !== name) })),
    hasBadge: (guild, holder, skill, now) =>
      store.read(guild).badges.some((badge) => badge.holder === holder && badge.skill === skill && badge.until > now),
    award: (guild, badge) => change(guild, ({ badges }) => ({ badges: [...badges, badge] })),
    charge: (guild, fine) => change(guild, ({ fines }) => ({ fines: [...fines, fine] })),
    clash: (guild, { name }, from, to) =>
      store
        .read(guild)
        .reservations.find((one) => one.tool === name && !one.tentative && one.from < to && from < one.to),
    reserve: (guild, reservation) =>
      change(guild, ({ reservations }) => ({ reservations: [...reservations, reservation] })),
    owed: (guild, who) =>
      store
        .read(guild)
        .fines.filter((fine) => fine.who === who)
        .reduce((sum, { pence }) => sum + pence, 0),
  };
}
