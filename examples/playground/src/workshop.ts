/** The whole state of the page: Mallet on a simulated platform and a virtual clock, and what has happened so far. */
import { type DemoData, openMallet } from '@oddmere/tool-library';
import {
  type Post,
  type RegistrarState,
  type StandInGuild,
  standIn,
  standInRegistrar,
  type VirtualClock,
  virtualClock,
  type World,
  writeSlashLine,
} from '@taxeon/testing';
import {
  type CommandOrGroup,
  type Guild,
  type GuildPlace,
  type GuildSettings,
  keyOf,
  type Member,
  type Outcome,
} from 'taxeon';
import type { Form, Input, LiveLimit } from 'taxeon/platform';
import {
  type AccessTable,
  accessTableOf,
  complete,
  type Explanation,
  explain,
  liveUsesOf,
  type Suggestion,
} from 'taxeon/queries';
import {
  type Difference,
  differenceTo,
  type Manifest,
  manifestOf,
  type RegistrationStep,
  register,
  scopesNamed,
} from 'taxeon/registration';
import oddmere from '../../tool-library/data/oddmere.yaml';

export const demoData = oddmere as DemoData;

/** One thing that was done, so that it can be done again. Times are milliseconds. */
export type Step =
  | { readonly wait: number }
  | { readonly person: string; readonly place: string; readonly types: string }
  | {
      readonly person: string;
      readonly place: string;
      readonly invokes: string;
      readonly options: Readonly<Record<string, string>>;
    }
  | { readonly person: string; readonly place: string; readonly fills: Readonly<Record<string, string>> }
  | { readonly guild: string; readonly member: string; readonly roles: readonly string[] }
  | { readonly guild: string; readonly settings: GuildSettings };

/** Something that a person typed, and what became of it. */
export interface SaidItem {
  readonly kind: 'said';
  readonly key: string;
  readonly input: Input;
  readonly line: string;
  outcome: Outcome | undefined;
  explanation: Explanation | undefined;
  state: 'at once' | 'typing' | 'held';
}

/** Something in the conversation, in the order in which it came. */
export type FeedItem = SaidItem | { readonly kind: 'post'; readonly key: string; readonly index: number };

/** What a cooldown said to one call. */
export interface Judged {
  readonly at: number;
  readonly person: string;
  readonly command: string;
  readonly granted: boolean;
}

const BEGINS = Date.parse('2026-05-09T13:00:00Z');
const TICK_MS = 200;
/** What is pasted beyond this is shown shortened; the bot gets all of it. */
const LONGEST_SHOWN = 600;

export class Workshop {
  /** Virtual for the bot, real for measuring how long a stage takes. */
  readonly clock: VirtualClock = { ...virtualClock(BEGINS), elapsed: () => performance.now() };
  readonly platform = standIn(demoData.world as World, { clock: this.clock });
  readonly feed: FeedItem[] = [];
  readonly judged: Judged[] = [];
  readonly steps: Step[] = [];
  /** Forms that were filled in, by their ids. */
  private readonly filled = new Set<string>();
  readonly registrationSteps: RegistrationStep[] = [];
  version = 0;
  speaker = 'ines';
  place = 'oddmere/counter';
  chosen: string | undefined;
  /** Virtual seconds in a real one; 0 stands still. */
  speed = 1;
  live: readonly LiveLimit[] = [];
  difference: Difference | undefined;
  isRegistering = false;
  problem: string | undefined;

  private readonly mallet = openMallet(demoData, {
    clock: this.clock,
    log: { error: () => undefined, warn: () => undefined },
  });
  private registered: RegistrarState = { changes: 0, held: {} };
  private readonly registrar = standInRegistrar({
    guilds: demoData.world.guilds.map(({ id }) => id),
    tokens: { page: ['look', 'register'] },
    token: 'page',
    clock: this.clock,
    state: {
      read: () => this.registered,
      write: (state) => {
        this.registered = state;
      },
    },
  });
  private readonly listeners = new Set<() => void>();
  private seenPosts = 0;
  private lastStepAt = BEGINS;
  private keys = 0;
  private knownManifest: Manifest | undefined;
  private passing: Promise<void> = Promise.resolve();

  constructor() {
    this.watchStates();
    this.layer.on('started', ({ input, command }) => this.judge(input, command, true));
    this.layer.on('refused', ({ input, command, outcome }) => {
      const isCooldown = outcome.by === 'layer' && outcome.code === 'cooldown.active';
      if (command !== undefined && isCooldown) this.judge(input, command, false);
    });
    void this.platform.serve(this.layer);
  }

  get layer() {
    return this.mallet.layer;
  }

  /** Asked of the core once for each catalogue, not at every tick. */
  get manifest(): Manifest {
    this.knownManifest ??= manifestOf(this.layer);
    return this.knownManifest;
  }

  get people() {
    return [...this.platform.directory.people.values()].filter(({ isBot }) => isBot !== true);
  }

  get guilds(): readonly StandInGuild[] {
    return [...this.platform.directory.guilds.values()];
  }

  get posts(): readonly Post[] {
    return this.platform.posts;
  }

  /** What is registered, by scope, with when people see it. */
  get held() {
    return this.registered.held;
  }

  subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => void this.listeners.delete(listener);
  };

  changed = (): void => {
    for (; this.seenPosts < this.posts.length; this.seenPosts++) {
      this.feed.push({ kind: 'post', key: `post ${this.seenPosts}`, index: this.seenPosts });
    }
    this.version += 1;
    for (const listener of this.listeners) listener();
  };

  /** Lets virtual time pass, as fast as was chosen. Gives what ends that. */
  run(): () => void {
    const timer = setInterval(() => {
      if (this.speed > 0) void this.pass(TICK_MS * this.speed);
    }, TICK_MS);
    return () => clearInterval(timer);
  }

  /** Everything that is due on the way happens at its own time; one passing after the other. */
  pass(ms: number): Promise<void> {
    this.passing = this.passing.then(async () => {
      const until = this.clock.now() + ms;
      while (this.clock.now() < until) {
        const next = this.clock.untilNext() ?? Number.POSITIVE_INFINITY;
        this.clock.advance(Math.max(1, Math.min(next, until - this.clock.now())));
        // What waited for that moment goes on a few promises later.
        if (next < ms) await new Promise((done) => setTimeout(done, 0));
      }
      this.live = await liveUsesOf(this.layer);
      this.changed();
    });
    return this.passing;
  }

  set(change: Partial<Pick<Workshop, 'speaker' | 'place' | 'chosen' | 'speed' | 'problem'>>): void {
    Object.assign(this, change);
    const here = this.peopleHere();
    if (!here.some(({ id }) => id === this.speaker)) this.speaker = here[0]?.id ?? this.speaker;
    this.changed();
  }

  /** The form that waits for the speaker, where one was shown to them here. */
  formHere(): Form | undefined {
    const channel = this.place === 'direct' ? `direct-${this.speaker}` : this.place;
    const shown = this.platform.forms.findLast(({ to }) => to.caller.id === this.speaker);
    const asked = this.said.findLast(({ input }) => input.caller.id === this.speaker && input.surface === 'slash');
    if (shown === undefined || asked === undefined || this.filled.has(shown.form.id)) return undefined;
    const isHere = shown.to.place.kind !== 'console' && shown.to.place.channel.id === channel;
    return isHere && this.waitsFor(asked) !== undefined ? shown.form : undefined;
  }

  /** For how many more milliseconds the bot waits for an answer to what it asked there; `undefined` where it does not. */
  waitsFor(item: SaidItem): number | undefined {
    const { outcome, input } = item;
    if (outcome?.status !== 'waiting' || outcome.until <= this.clock.now()) return undefined;
    const isOf = (other: SaidItem) =>
      other.input.caller.id === input.caller.id && other.input.surface === input.surface && other.outcome !== undefined;
    const later = this.said.slice(this.said.indexOf(item) + 1).filter(isOf);
    const isOver = later.some(({ outcome }) => outcome?.status !== 'ignored');
    return isOver ? undefined : outcome.until - this.clock.now();
  }

  private get said(): readonly SaidItem[] {
    return this.feed.filter((item): item is SaidItem => item.kind === 'said');
  }

  peopleHere() {
    const guild = this.guildHere();
    return guild === undefined ? this.people : this.people.filter(({ id }) => guild.members.has(id));
  }

  guildHere(): StandInGuild | undefined {
    return this.platform.directory.guilds.get(this.place.split('/')[0] ?? '');
  }

  typed(text: string): Input {
    return this.platform.typed({ person: this.speaker, place: this.place, text });
  }

  invoked(path: readonly string[], options: Readonly<Record<string, string>>): Input {
    return this.platform.invoked({ person: this.speaker, place: this.place, path, options });
  }

  // The marks stand in the browser's own profile, and let a test count the calls.

  explain(input: Input): Promise<Explanation> {
    performance.mark('explain');
    return explain(this.layer, input, this.platform);
  }

  complete(input: Input, at: number | string): Promise<readonly Suggestion[]> {
    performance.mark('complete');
    return complete(this.layer, input, at, this.platform);
  }

  async do(step: Step): Promise<void> {
    this.record(step);
    if ('wait' in step) return this.pass(step.wait);
    if ('roles' in step) {
      this.platform.directory.giveRoles(step.guild, step.member, step.roles);
      return this.changed();
    }
    if ('settings' in step) {
      await this.mallet.settings.change(keyOf(this.platform.name, step.guild), () => step.settings);
      return this.changed();
    }
    const doing = { person: step.person, place: step.place };
    const input =
      'types' in step
        ? this.platform.typed({ ...doing, text: step.types })
        : 'fills' in step
          ? this.platform.filled({ ...doing, answers: step.fills })
          : this.platform.invoked({ ...doing, path: step.invokes.split(' '), options: step.options });
    if (input.fills !== undefined) this.filled.add(input.fills);
    await this.hand(input, lineOf(step));
  }

  private async hand(input: Input, line: string): Promise<void> {
    this.keys += 1;
    const base = { outcome: undefined, explanation: undefined, state: 'at once' } as const;
    const item: SaidItem = { ...base, kind: 'said', key: `said ${this.keys}`, input, line };
    this.feed.push(item);
    this.chosen = item.key;
    this.changed();
    const outcome = await this.layer.handle(input, this.platform, { trace: true });
    item.outcome = outcome;
    if (outcome.status === 'ignored') item.explanation = await this.explain(input);
    this.live = await liveUsesOf(this.layer);
    this.changed();
  }

  /** Steps are written down with the time between them. */
  private record(step: Step): void {
    const now = this.clock.now();
    const isWait = 'wait' in step;
    if (now > this.lastStepAt && !isWait) this.steps.push({ wait: now - this.lastStepAt });
    this.lastStepAt = isWait ? now + step.wait : now;
    this.steps.push(step);
  }

  private watchStates(): void {
    const { hold } = this.platform;
    const mark = (input: Input, state: SaidItem['state']) => {
      for (const item of this.feed) if (item.kind === 'said' && item.input === input) item.state = state;
      setTimeout(this.changed, 0);
    };
    this.platform.hold = (input, visibleTo) => {
      mark(input, 'held');
      return hold?.(input, visibleTo);
    };
    this.platform.typing = (input) => mark(input, 'typing');
  }

  private judge(input: Input, command: string, granted: boolean): void {
    this.judged.push({ at: this.clock.now(), person: input.caller.name, command, granted });
  }

  access(person: string): Promise<AccessTable> | undefined {
    const guild = this.guildHere();
    if (guild === undefined) return undefined;
    const place: GuildPlace = { kind: 'guild', guild: plainGuild(guild), channel: this.channelHere(guild.id) };
    const member = this.platform.directory.member(guild, person) as Member | undefined;
    return accessTableOf(this.layer, place, this.platform, member);
  }

  private channelHere(guildId: string) {
    const name = this.place.split('/')[1] ?? '';
    return { id: `${guildId}/${name}`, name: `#${name}` };
  }

  settingsHere(): Promise<GuildSettings> {
    const guild = this.guildHere();
    return guild === undefined ? Promise.resolve({}) : this.mallet.settings.load(keyOf(this.platform.name, guild.id));
  }

  /** Changes what is said of one command, as a developer would between two versions. */
  redescribe(name: string, description: string): void {
    try {
      this.layer.replace(this.mallet.commands.map((one) => redescribed(one, name, description)));
      this.knownManifest = undefined;
      this.problem = undefined;
    } catch (error) {
      this.problem = messageOf(error);
    }
    void this.compare();
  }

  async compare(): Promise<void> {
    this.difference = await differenceTo(this.manifest, this.registrar);
    this.changed();
  }

  /** @param scope a set of guilds or a guild; all scopes where it is absent */
  async register(scope: string | undefined, removeLeftOver: boolean): Promise<void> {
    this.isRegistering = true;
    this.registrationSteps.length = 0;
    this.changed();
    try {
      await register(this.manifest, this.registrar, {
        clock: this.clock,
        removeLeftOver,
        ...(scope === undefined ? {} : { scopes: scopesNamed(this.layer, scope, 'stand-in') }),
        onProgress: (step) => {
          this.registrationSteps.push(step);
          setTimeout(this.changed, 0);
        },
      });
    } catch (error) {
      this.problem = messageOf(error);
    }
    this.isRegistering = false;
    await this.compare();
  }
}

function plainGuild({ id, name }: Guild): Guild {
  return { id, name };
}

function redescribed(one: CommandOrGroup, name: string, description: string): CommandOrGroup {
  return 'declaration' in one && one.declaration.name === name
    ? { ...one, declaration: { ...one.declaration, description } }
    : one;
}

export function messageOf(error: unknown): string {
  return error instanceof Error ? error.message : String(error);
}

export function lineOf(step: Extract<Step, { person: string }>): string {
  if ('types' in step) return step.types;
  if ('fills' in step) return Object.values(step.fills).join(', ');
  return writeSlashLine(step.invokes.split(' '), step.options);
}

export function shortened(text: string): string {
  if (text.length <= LONGEST_SHOWN) return text;
  return `${text.slice(0, LONGEST_SHOWN)}… (${text.length.toLocaleString('en')} characters)`;
}

export function timeOfDay(at: number): string {
  return new Date(at).toISOString().slice(11, 19);
}
