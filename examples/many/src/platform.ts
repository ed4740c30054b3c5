/** The simulated platform: it has the people, and hands what they type to the processes of the bot in turn. */
import { type ChildProcess, fork } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import type { Line, Told } from './lines.js';

export interface BotProcess {
  readonly number: number;
  /** What came of a line there; rejects where the process ends before it has told. */
  hand(line: Line): Promise<Told>;
  /** How many lines it has not told of yet. */
  unanswered(): number;
  /** Ends it at once. */
  kill(): Promise<void>;
  /** Lets it end what it does. */
  close(): Promise<void>;
}

interface Waiting {
  tell(told: Told): void;
  lose(error: Error): void;
}

const script = fileURLToPath(new URL('./process.js', import.meta.url));

export async function startProcess(number: number, url: string, data: unknown): Promise<BotProcess> {
  const child = fork(script, [url, JSON.stringify(data)], { stdio: ['ignore', 'inherit', 'inherit', 'ipc'] });
  const waiting = new Map<string, Waiting>();
  const gone = new Promise<void>((resolve) => child.once('exit', () => resolve()));
  void gone.then(() => {
    for (const { lose } of waiting.values()) lose(new Error(`process ${number} is gone`));
  });
  await new Promise<void>((resolve, reject) => {
    child.once('exit', () => reject(new Error(`process ${number} did not start`)));
    child.on('message', (told: Told | 'ready') => {
      if (told === 'ready') resolve();
      else {
        waiting.get(told.id)?.tell(told);
        waiting.delete(told.id);
      }
    });
  });
  return {
    number,
    hand: (line) =>
      new Promise((tell, lose) => {
        waiting.set(line.id, { tell, lose });
        send(child, line, lose);
      }),
    unanswered: () => waiting.size,
    kill() {
      child.kill('SIGKILL');
      return gone;
    },
    close() {
      child.kill('SIGTERM');
      return gone;
    },
  };
}

function send(child: ChildProcess, line: Line, lose: (error: Error) => void): void {
  const gone = () => lose(new Error('the process is gone'));
  try {
    child.send(line, (error) => {
      if (error !== null) gone();
    });
  } catch {
    gone();
  }
}
