import { describe, expect, it } from 'vitest';
import { hasBrought, type Task } from './api';

const task = (change: Partial<Task>) => ({ id: 1, kind: 'rebuild', status: 'running', done: 0, ...change }) as Task;

describe('tasks', () => {
  it('have brought something when one has ended, or the demo has gone on', () => {
    const running = [task({})];
    expect(hasBrought([], running)).toBe(false);
    expect(hasBrought(running, [task({ done: 5 })])).toBe(false);
    expect(hasBrought(running, [task({ status: 'done' })])).toBe(true);
    expect(hasBrought(running, [task({ id: 2 }), task({ status: 'cancelled' })])).toBe(true);
    expect(hasBrought([task({ kind: 'demo' })], [task({ kind: 'demo', done: 3 })])).toBe(true);
    expect(hasBrought([task({ status: 'done' })], [task({ status: 'done' })])).toBe(false);
  });
});
