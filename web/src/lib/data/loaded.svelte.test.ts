import { flushSync } from 'svelte';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { Loaded } from './loaded.svelte';

/** A request that is answered, or fails, when it is told to. */
function request<T>() {
  let answer!: (value: T) => void;
  let fail!: (error: Error) => void;
  const promise = new Promise<T>((resolve, reject) => {
    answer = resolve;
    fail = reject;
  });
  return { promise, answer, fail };
}

const settled = () => vi.advanceTimersByTimeAsync(0);
let end: () => void = () => undefined;
/** Makes something as a component does. */
function made<T>(make: () => T): T {
  let result!: T;
  end = $effect.root(() => {
    result = make();
  });
  flushSync();
  return result;
}

describe('what is loaded', () => {
  beforeEach(() => vi.useFakeTimers());
  afterEach(() => {
    end();
    vi.useRealTimers();
  });

  it('is asked for again when what it depends on changes; a stale answer is dropped and its request told so', async () => {
    let symbol = $state('A');
    const asked: { of: string; signal: AbortSignal; request: ReturnType<typeof request<string>> }[] = [];
    const taken: string[] = [];
    const loaded = made(
      () =>
        new Loaded<string>(
          (signal) => {
            const one = { of: symbol, signal, request: request<string>() };
            asked.push(one);
            return one.request.promise;
          },
          (answer) => taken.push(answer),
        ),
    );
    expect(loaded.value).toBeNull();
    symbol = 'B';
    flushSync();
    expect(asked.map(({ of, signal }) => [of, signal.aborted])).toEqual([
      ['A', true],
      ['B', false],
    ]);
    asked[1]!.request.answer('b');
    await settled();
    asked[0]!.request.answer('a');
    await settled();
    expect(loaded.value).toBe('b');
    expect(taken).toEqual(['b']);
  });

  it('stays while the next is loaded or has failed, and says what is wrong until it is asked for again', async () => {
    const requests: ReturnType<typeof request<number>>[] = [];
    const loaded = made(
      () =>
        new Loaded<number>(() => {
          requests.push(request());
          return requests.at(-1)!.promise;
        }),
    );
    requests[0]!.answer(1);
    await settled();
    loaded.retry();
    flushSync();
    expect([loaded.value, loaded.problem]).toEqual([1, null]);
    requests[1]!.fail(new Error('no answer'));
    await settled();
    expect([loaded.value, loaded.problem]).toEqual([1, 'no answer']);
    loaded.retry();
    flushSync();
    expect(loaded.problem).toBeNull();
    requests[2]!.answer(3);
    await settled();
    expect([loaded.value, loaded.problem]).toEqual([3, null]);
  });

  it('goes where there is nothing to ask, and stays where what is there is to stay', async () => {
    let what = $state<'ask' | 'nothing' | 'stay'>('ask');
    const loaded = made(
      () => new Loaded<number>(() => (what === 'ask' ? Promise.resolve(1) : what === 'nothing' ? null : undefined)),
    );
    await settled();
    expect(loaded.value).toBe(1);
    what = 'stay';
    flushSync();
    expect(loaded.value).toBe(1);
    what = 'nothing';
    flushSync();
    expect(loaded.value).toBeNull();
  });

  it('is asked for again after so long, also after a failure, until it ends', async () => {
    let asked = 0;
    made(
      () =>
        new Loaded<number>(() => (++asked % 2 ? Promise.resolve(1) : Promise.reject(new Error('no'))), undefined, {
          every: 1000,
        }),
    );
    await settled();
    for (const times of [2, 3]) {
      await vi.advanceTimersByTimeAsync(1000);
      flushSync();
      await settled();
      expect(asked).toBe(times);
    }
    end();
    await vi.advanceTimersByTimeAsync(5000);
    flushSync();
    expect(asked).toBe(3);
  });
});
