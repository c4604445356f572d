/**
 * The readings worker, kept at work: one that throws goes on with the next request, one that dies or hangs is started
 * again, at most three times a minute; and of what is asked about a whole sheet only the newest is answered.
 */
import { QUESTIONS, type Question, type ReadingsAnswer, type ReadingsRequest } from '../workers/readings.js';
import type { Effect } from '../core/effect/schema.js';

/** What is needed of a worker: tests have one of their own. */
export interface WorkerLike {
  postMessage(message: ReadingsRequest, transfer: Transferable[]): void;
  terminate(): void;
  addEventListener(type: string, listener: (event: { data?: ReadingsAnswer; message?: string }) => void): void;
}

export interface PortEvents {
  readonly onAnswer: (answer: ReadingsAnswer) => void;
  /** Something the artist should know: a sentence. */
  readonly onTrouble: (sentence: string) => void;
  /** A new worker knows nothing: everything is to be told again. */
  readonly onFresh: () => void;
}

export interface PortTimes {
  /** How long a worker may stay silent while it is asked for something. */
  readonly silenceMs: number;
  /** So many may be started in so long a time. */
  readonly restarts: number;
  readonly windowMs: number;
}
const TIMES: PortTimes = { silenceMs: 30_000, restarts: 3, windowMs: 60_000 };

export class ReadingsPort {
  private worker: WorkerLike | null = null;
  private readonly started: number[] = [];
  /** Since when an answer is waited for. */
  private waiting: ReturnType<typeof setTimeout> | null = null;
  private later: ReturnType<typeof setTimeout> | null = null;
  private stopped = false;
  private turn = 0;
  /** Questions that wait for their answer, by the turn they were asked in, and what is to be asked next. */
  private readonly asked = new Map<Question, number>();
  private readonly next = new Map<Question, Effect>();

  constructor(
    private readonly make: () => WorkerLike,
    private readonly events: PortEvents,
    private readonly times: PortTimes = TIMES,
  ) {
    this.start();
  }

  private start(): void {
    const worker = this.make();
    this.worker = worker;
    worker.addEventListener('message', ({ data }) => {
      if (worker === this.worker && data) this.receive(data);
    });
    // What could not be read, in either direction, leaves the worker in a state that nobody knows.
    for (const type of ['error', 'messageerror'])
      worker.addEventListener(type, ({ message }) => worker === this.worker && this.restart(message ?? 'it stopped'));
  }

  private restart(why: string): void {
    this.worker?.terminate();
    this.worker = null;
    this.expectNothing();
    this.asked.clear();
    this.next.clear();
    if (this.stopped) return;
    const now = performance.now();
    while (this.started.length > 0 && now - this.started[0]! > this.times.windowMs) this.started.shift();
    if (this.started.length < this.times.restarts) {
      this.events.onTrouble(`Swatches, ranges and advice were started again: ${why}.`);
      this.startAgain(now);
      return;
    }
    const wait = this.times.windowMs - (now - this.started[0]!);
    this.events.onTrouble(
      `Swatches, ranges and advice stopped ${this.times.restarts + 1} times within a minute; they wait until it is over. Last: ${why}.`,
    );
    this.later ??= setTimeout(() => {
      this.later = null;
      this.startAgain(performance.now());
    }, wait);
  }

  private startAgain(now: number): void {
    this.started.push(now);
    this.start();
    this.events.onFresh();
  }

  /** @returns false while there is no worker: nobody will answer */
  post(request: ReadingsRequest, transfer: Transferable[] = []): boolean {
    if (!this.worker) return false;
    this.worker.postMessage(request, transfer);
    if (request.kind === 'draw') this.expect();
    return true;
  }

  /** Asks about a sheet as it is now. One question of a kind is under way; of those that come meanwhile the newest follows. */
  ask(question: Question, effect: Effect): void {
    if (this.asked.has(question)) {
      this.next.set(question, effect);
      return;
    }
    const turn = ++this.turn;
    if (!this.post({ kind: question, turn, effect })) return;
    this.asked.set(question, turn);
    this.expect();
  }

  private receive(answer: ReadingsAnswer): void {
    this.expectNothing();
    const question = QUESTIONS.find((q) => q === (answer.kind === 'trouble' ? answer.about : answer.kind));
    if (question) {
      this.asked.delete(question);
      const newer = this.next.get(question);
      if (newer) {
        this.next.delete(question);
        this.ask(question, newer);
      }
    }
    if (this.asked.size > 0) this.expect();
    if (answer.kind === 'trouble' && answer.about !== 'draw')
      this.events.onTrouble(`This could not be worked out (${answer.about}): ${answer.message}.`);
    this.events.onAnswer(answer);
  }

  private expect(): void {
    this.waiting ??= setTimeout(() => {
      this.waiting = null;
      this.restart('it did not answer');
    }, this.times.silenceMs);
  }

  private expectNothing(): void {
    if (this.waiting) clearTimeout(this.waiting);
    this.waiting = null;
  }

  stop(): void {
    this.stopped = true;
    this.expectNothing();
    if (this.later) clearTimeout(this.later);
    this.worker?.terminate();
    this.worker = null;
  }
}
