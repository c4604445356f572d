/**
 * Whose turn it is: pictures of scenes are made step by step through one context, the most urgent first. Between two
 * steps of one another may come, and the page goes on. What nobody wants any more is left where it stands.
 */

/** `asked`: somebody waits for it. `seen`: it is in view and stands for something until it comes. `idle`: for later. */
export const PRIORITIES = ['asked', 'seen', 'idle'] as const;
export type Priority = (typeof PRIORITIES)[number];

export interface Turn {
  /** Lets what is more urgent go first, and the page do what it has to. @throws when it is not wanted any more */
  next(): Promise<void>;
}

export interface QueueOptions {
  readonly priority: Priority;
  /** Ends it between two steps; it rejects with the signal's reason. */
  readonly signal?: AbortSignal;
}

interface Waiting {
  readonly rank: number;
  readonly order: number;
  readonly go: () => void;
}

/** A moment for the page; of what is for later, one in which it has nothing else to do. */
const pause = (priority: Priority): Promise<void> =>
  new Promise((resolve) =>
    priority === 'idle' && typeof requestIdleCallback === 'function'
      ? requestIdleCallback(() => resolve(), { timeout: 200 })
      : setTimeout(resolve),
  );

export class SceneQueue {
  private readonly waiting: Waiting[] = [];
  private taken = false;
  private orders = 0;

  /**
   * Does something when its turn has come.
   * @param job of steps, between which it waits for its next turn
   * @throws what the job throws, and the signal's reason
   */
  async run<T>(job: (turn: Turn) => Promise<T>, { priority, signal }: QueueOptions): Promise<T> {
    const rank = PRIORITIES.indexOf(priority);
    const order = this.orders++;
    let mine = false;
    const take = async () => {
      signal?.throwIfAborted();
      await this.take(rank, order, signal);
      mine = true;
    };
    const release = () => {
      if (mine) this.release();
      mine = false;
    };
    await take();
    try {
      return await job({
        next: async () => {
          release();
          await pause(priority);
          await take();
        },
      });
    } finally {
      release();
    }
  }

  private take(rank: number, order: number, signal: AbortSignal | undefined): Promise<void> {
    if (!this.taken) {
      this.taken = true;
      return Promise.resolve();
    }
    return new Promise((resolve, reject) => {
      const leave = () => {
        this.waiting.splice(this.waiting.indexOf(entry), 1);
        reject(signal!.reason as Error);
      };
      const entry: Waiting = {
        rank,
        order,
        go: () => {
          signal?.removeEventListener('abort', leave);
          resolve();
        },
      };
      this.waiting.push(entry);
      signal?.addEventListener('abort', leave, { once: true });
    });
  }

  private release(): void {
    const [first] = [...this.waiting].sort((a, b) => a.rank - b.rank || a.order - b.order);
    if (!first) {
      this.taken = false;
      return;
    }
    this.waiting.splice(this.waiting.indexOf(first), 1);
    first.go();
  }
}
