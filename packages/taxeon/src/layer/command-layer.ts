/** What a command layer is to those who use it. */
import type { Duration } from '../base/time.js';
import type { Command } from '../commands/command.js';
import type { CommandOrGroup } from '../commands/group.js';
import type { EventName, LayerEvents } from '../contract/events.js';
import type { Input } from '../contract/input.js';
import type { Outcome } from '../contract/outcome.js';
import type { Place } from '../contract/places.js';
import type { InputHandler, Platform, Serving } from '../contract/platform.js';

/** Commands and groups, or a function of the layer that gives them: called each time that its catalogue is made. */
export type CommandsOf = readonly CommandOrGroup[] | ((layer: CommandLayer) => readonly CommandOrGroup[]);

/** What `handle` does besides. */
export interface HandleOptions {
  /** Whether the outcome carries a trace of the stages. */
  readonly trace?: boolean;
}

/** How the bot's own code runs a command. */
export interface Invocation<Given> {
  readonly args: Given;
  /** Which part of the bot is calling, as replies and logs name it. */
  readonly as: string;
  /** Where it is meant to happen; nowhere in particular by default. */
  readonly place?: Place;
  readonly platform?: Platform;
  readonly trace?: boolean;
}

/** How long closing may take. */
export interface CloseOptions {
  /** How long closing may take in all; 10 s by default. The end of it, at most half and at most 6 s, is for last words and what is written. */
  readonly within?: Duration;
}

/** What became of the calls that ran when a layer closed. */
export interface Closed {
  /** How many calls were given up. */
  readonly aborted: number;
}

/** Looking at it from outside, such as explaining, completing or helping, is what the functions over a layer do. */
export interface CommandLayer extends InputHandler {
  /**
   * Takes one input through all stages. Ordinary chat resolves at once.
   * Never rejects for anything that a user of the bot can send.
   */
  handle(input: Input, platform?: Platform, options?: HandleOptions): Promise<Outcome>;
  /** Runs a command from the bot's own code, with the same checks, limits and outcomes as everywhere. */
  invoke<Given>(command: Command<Given>, invocation: Invocation<NoInfer<Given>>): Promise<Outcome>;
  /**
   * Swaps the catalogue whole. Calls under way finish on the one they began with; settings, counts and cooldowns
   * go by the commands' ids, so that they outlast a rename.
   *
   * @throws DeclarationError naming every problem; the catalogue stays as it was.
   */
  replace(commands: CommandsOf): void;
  /** Calls a listener at every event of a kind; gives what ends that. */
  on<Name extends EventName>(name: Name, listener: (event: LayerEvents[Name]) => unknown): () => void;
  /**
   * Takes no more inputs, lets the running calls finish, gives up those that are not finished in time, delivers their
   * last words, writes what is still to be written, and closes the platforms that serve it. It ends in the time that it
   * is given, whatever hangs. The store stays open.
   */
  close(options?: CloseOptions): Promise<Closed>;
  connected(platform: Platform, serving?: Serving): Promise<void>;
}
