/** The questions that are open: the questions themselves in the store, who is asked where in memory, in every process. */
import { randomReference } from '../base/reference.js';
import { atOnce, inTime } from '../base/thenable.js';
import { after, type Clock } from '../base/time.js';
import type { Store } from '../contract/store.js';
import { type Question, questionFrom, writtenQuestion } from './question.js';
import { PREFIX } from './question-keys.js';

/** What the questions need of the layer. */
export interface QuestionServices {
  readonly store: Store;
  readonly clock: Clock;
  readonly storePatienceMs: number;
  /** Told where the store did not answer. */
  readonly outages: { tell(fields: Readonly<Record<string, unknown>>): void };
  readonly reference: () => string;
}

/** Who is asked where, as it is looked up for each line of chat. */
export interface Opened {
  readonly id: string;
  readonly kind: Question['kind'];
  readonly until: number;
  /** The form that was shown, by its id. */
  readonly form: string | undefined;
  /** The id of the person. */
  readonly person: string;
  cancel(): void;
}

/** A question that was opened here. */
export interface QuestionOpening {
  /** Whether the store has kept it. */
  readonly isKept: Promise<boolean>;
  /** Takes it away, unless another has taken its place. */
  withdraw(): void;
}

const TOPIC = 'asking';
/** A handler's question is kept longer than it is open: who is left hanging by a dead process is told so. */
const KEPT_MS = 86_400_000;
/** How often a question is tried to be written over what stood there. */
const WRITE_TRIES = 3;
/** Between attempts to take away a question that the store has not let go. */
const RETRY_MS = 5000;
/** In UTF-16 code units: the ids of a person and a channel, with the platform's name. */
const LONGEST_KEY = 2000;
/** After this long past its end, a handler's question is one that its process did not take away. */
const ORPHANED_AFTER_MS = 2000;

/** What processes tell each other of a question. */
type ToldQuestion = Pick<Question, 'id' | 'kind' | 'until' | 'form' | 'person'> & { readonly isOver?: boolean };

export class OpenQuestions {
  /** By `placeKey`. */
  readonly all = new Map<string, Opened>();
  /** How many questions each person is asked, by their id: most of those who talk are asked nothing. */
  private readonly people = new Map<string, number>();
  /** What ends the wait for another attempt to take a question away. */
  private readonly retries = new Set<() => void>();
  private isClosed = false;
  private readonly turns = new Map<string, Promise<void>>();
  /** The layer, as others tell it from themselves. */
  readonly by: string;
  private readonly unsubscribe: unknown;
  private asked = 0;

  constructor(
    private readonly services: QuestionServices,
    /** How many may be open at once; more are refused instead. */
    private readonly most: number,
    /** Told of a handler's question whose process has died. */
    private readonly orphaned: (question: Question) => void,
  ) {
    this.by = `${randomReference()}-${randomReference()}`;
    this.unsubscribe = atOnce(
      services.store.subscribe(
        TOPIC,
        (message) => this.heard(message),
        () => void this.list(),
      ),
    );
    void this.list();
  }

  /** For a question, which no other has; a form that is shown for it has the same. */
  newId(): string {
    this.asked += 1;
    return `${this.by}.${this.asked}`;
  }

  /** Whether a person with this id is asked something, on whatever platform. Hot path: bench/rows/asking. */
  asks(person: string): boolean {
    return this.people.has(person);
  }

  get isFull(): boolean {
    return this.all.size >= this.most;
  }

  /**
   * Opens a question, in place of one that is open there.
   *
   * @param late called when its time is up and nobody has answered
   */
  open(key: string, question: Question, late: () => void): QuestionOpening {
    const text = writtenQuestion(question);
    if (text === undefined) return { isKept: Promise.resolve(false), withdraw: () => undefined };
    const opened = this.add(key, question, late);
    const withdraw = () => {
      if (this.all.get(key) === opened) this.forget(key);
      this.erase(key, question);
    };
    const isKept = this.inTurn(key, () => this.write(key, question, text)).catch((error) => {
      this.failed(error);
      return false;
    });
    // What did not answer may have kept it all the same.
    void isKept.then((kept) => kept || withdraw());
    return { isKept, withdraw };
  }

  /** Takes a question out of the store, so that nobody else does; nothing where another process has. @throws what the store does */
  take(key: string): Promise<Question | undefined> {
    this.forget(key);
    return this.inTurn(key, () => this.claim(key));
  }

  private async claim(key: string, isIt: (question: Question) => boolean = () => true): Promise<Question | undefined> {
    const { question, version } = (await this.look(key)) ?? {};
    if (question === undefined || version === undefined || !isIt(question)) return undefined;
    const isOurs = await this.ask(({ store }) => store.compareAndSet(PREFIX + key, version, '', 1));
    if (isOurs === true) void this.tell(key, question, true);
    return isOurs === true ? question : undefined;
  }

  /** The question as the store has it. @throws what the store does */
  async look(key: string): Promise<{ readonly question: Question; readonly version: number } | undefined> {
    const found = await this.ask(({ store }) => store.read(PREFIX + key));
    if (typeof found?.value !== 'string') return undefined;
    const question = questionFrom(found.value);
    return question === undefined ? undefined : { question, version: found.version };
  }

  /** Takes one question of this process out of the store, and tries that again until it is. */
  private erase(key: string, question: Question): void {
    void this.inTurn(key, () => this.claim(key, ({ id }) => id === question.id)).catch((error) => {
      this.failed(error);
      if (this.isClosed || this.retries.size >= this.most) return;
      const cancel = after(this.services.clock, RETRY_MS, () => {
        this.retries.delete(cancel);
        this.erase(key, question);
      });
      this.retries.add(cancel);
    });
  }

  private failed(error: unknown): void {
    this.services.outages.tell({ error, reference: this.services.reference() });
  }

  /** In memory alone. */
  forget(key: string): Opened | undefined {
    const opened = this.all.get(key);
    if (opened === undefined) return undefined;
    opened.cancel();
    this.all.delete(key);
    const left = (this.people.get(opened.person) ?? 1) - 1;
    if (left === 0) this.people.delete(opened.person);
    else this.people.set(opened.person, left);
    return opened;
  }

  close(): void {
    this.isClosed = true;
    if (typeof this.unsubscribe === 'function') this.unsubscribe();
    for (const cancel of this.retries) cancel();
    this.retries.clear();
    for (const key of [...this.all.keys()]) this.forget(key);
  }

  private add(key: string, { id, kind, until, form, person }: ToldQuestion, late: () => void, graceMs = 0): Opened {
    this.forget(key);
    const { clock } = this.services;
    const cancel = after(clock, Math.max(0, until - clock.now()) + graceMs, late);
    const opened = { id, kind, until, form, person: person.id, cancel };
    this.all.set(key, opened);
    this.people.set(person.id, (this.people.get(person.id) ?? 0) + 1);
    return opened;
  }

  /** What is kept under one key changes step by step, so that of two questions at once the newer one is kept. */
  private inTurn<T>(key: string, step: () => Promise<T>): Promise<T> {
    const next = (this.turns.get(key) ?? Promise.resolve()).then(step);
    const over = next.then(
      () => undefined,
      () => undefined,
    );
    this.turns.set(key, over);
    void over.then(() => {
      if (this.turns.get(key) === over) this.turns.delete(key);
    });
    return next;
  }

  private async write(key: string, question: Question, text: string): Promise<boolean> {
    const { kind, until } = question;
    const { clock } = this.services;
    const keptMs = Math.max(1, until - clock.now()) + (kind === 'handler' ? KEPT_MS : ORPHANED_AFTER_MS);
    // What stood there may run out, or be taken by another process, between the two.
    for (let tries = 0; tries < WRITE_TRIES; tries++) {
      const before = await this.ask(({ store }) => store.read(PREFIX + key));
      const isWritten = await this.ask(({ store }) =>
        store.compareAndSet(PREFIX + key, before?.version ?? 0, text, keptMs),
      );
      if (isWritten !== true) continue;
      await this.tell(key, question);
      return true;
    }
    return false;
  }

  private ask<T>(what: (services: QuestionServices) => T): Promise<Awaited<T>> {
    const { clock, storePatienceMs } = this.services;
    return inTime(clock, storePatienceMs, () => what(this.services)) as Promise<Awaited<T>>;
  }

  /** Others find it in the store should they not hear of it. */
  private async tell(key: string, { id, until, kind, form, person }: Question, isOver = false): Promise<void> {
    try {
      await this.ask(({ store }) =>
        store.publish(TOPIC, JSON.stringify({ by: this.by, key, id, until, kind, form, person, isOver })),
      );
    } catch (error) {
      this.failed(error);
    }
  }

  private heard(message: string): void {
    try {
      const { by, key, ...told } = JSON.parse(message) as Partial<ToldQuestion> & {
        readonly by?: unknown;
        readonly key?: unknown;
      };
      const { until, person, isOver } = told;
      if (by === this.by || typeof key !== 'string' || !Number.isFinite(until)) return;
      if (isOver === true) {
        // Another may have been asked since.
        if (this.all.get(key)?.id === told.id) this.forget(key);
      } else if (typeof person?.id === 'string') this.addForeign(key, told as ToldQuestion);
    } catch {
      // What is no message of ours says nothing.
    }
  }

  /** One of another process, or of this one before it was started anew. */
  private addForeign(key: string, question: ToldQuestion): void {
    // What a store gives has a bound, too.
    const isOurs = key.length <= LONGEST_KEY && question.until <= this.services.clock.now() + KEPT_MS;
    if (!isOurs || this.isFull) return;
    const isHandlers = question.kind === 'handler';
    const late = () => void (isHandlers ? this.adopt(key) : this.forget(key));
    this.add(key, question, late, isHandlers ? ORPHANED_AFTER_MS : 0);
  }

  private async adopt(key: string): Promise<void> {
    try {
      const question = await this.take(key);
      if (question !== undefined) this.orphaned(question);
    } catch (error) {
      this.failed(error);
    }
  }

  /** What is open when the process starts, and where it may have missed something. */
  private async list(): Promise<void> {
    try {
      const found = await this.ask(({ store }) => store.entries(PREFIX));
      for (const [name, text] of found ?? []) {
        const key = name.slice(PREFIX.length);
        const question = questionFrom(text);
        if (question !== undefined && question.by !== this.by && !this.all.has(key)) this.addForeign(key, question);
      }
    } catch (error) {
      this.failed(error);
    }
  }
}
