/** `layer.complete`: asks for suggestions, and lets nothing of the developer's throw, hang or come late. */
import { patiently } from '../../base/thenable.js';
import type { Run, Services } from '../../pipeline/run-object.js';
import { showsTo } from '../../pipeline/viewer.js';
import { type CompletionScene, completeOption, completeText, type Suggestion } from './complete.js';

/** Nobody waits longer for suggestions while typing. */
const PATIENCE_MS = 2500;
const MOST = 20;

export class Completions {
  /** The latest question of each person in each place. */
  private readonly latest = new Map<string, AbortController>();

  constructor(private readonly services: Services) {}

  async of(run: Run, at: number | string): Promise<readonly Suggestion[]> {
    const { input, platform } = run;
    const place = input.place.kind === 'console' ? 'console' : input.place.channel.id;
    const key = `${platform?.name ?? ''} ${place} ${input.caller.id}`;
    const controller = new AbortController();
    this.latest.get(key)?.abort();
    this.latest.set(key, controller);
    try {
      const found = await this.ask(run, at, controller.signal);
      return controller.signal.aborted ? [] : found;
    } catch (error) {
      this.services.log.error({ error }, 'A completion failed');
      return [];
    } finally {
      if (this.latest.get(key) === controller) this.latest.delete(key);
    }
  }

  private async ask(run: Run, at: number | string, signal: AbortSignal): Promise<readonly Suggestion[]> {
    const scene: CompletionScene = {
      catalogue: run.catalogue,
      context: run,
      isShown: await showsTo(run),
      most: run.platform?.capabilities.mostSuggestions ?? MOST,
      own: (from, typed, args) =>
        this.own(run, signal, async (own) => from(typed, { ...contextOf(run), args, signal: own })),
    };
    const { text = '', path = [], options = {} } = run.input;
    if (typeof at === 'number') return completeText(scene, text, run.nameAt, at);
    const command = run.catalogue.find(path.join(' '));
    return command?.kind === 'command' ? completeOption(scene, command, options, at) : [];
  }

  /** Its signal is aborted where a later question came, and where it takes too long. */
  private async own(run: Run, signal: AbortSignal, ask: (signal: AbortSignal) => Promise<unknown>): Promise<unknown> {
    const controller = new AbortController();
    const abort = () => controller.abort();
    signal.addEventListener('abort', abort);
    try {
      const stopped = new Promise<undefined>((resolve) => signal.addEventListener('abort', () => resolve(undefined)));
      return await patiently(Promise.race([ask(controller.signal), stopped]), PATIENCE_MS);
    } catch (error) {
      run.services.log.error({ error, input: run.inputId }, 'A completion of the bot’s own failed');
      return [];
    } finally {
      signal.removeEventListener('abort', abort);
      abort();
    }
  }
}

function contextOf({ input, platform }: Run) {
  return { caller: input.caller, place: input.place, platform };
}
