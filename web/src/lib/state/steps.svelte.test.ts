import { describe, expect, it } from 'vitest';
import { Steps } from './steps.svelte';

describe('steps', () => {
  it('are undone and done again; a new one forgets what was undone', () => {
    const steps = new Steps<number>();
    expect([steps.undo(), steps.redo(), steps.now]).toEqual([null, null, null]);
    for (const value of [1, 2, 2, 3]) steps.take(value);
    expect([steps.now, steps.first, steps.canUndo, steps.canRedo]).toEqual([3, 1, true, false]);
    expect([steps.undo(), steps.undo(), steps.undo()]).toEqual([2, 1, null]);
    expect([steps.redo(), steps.now]).toEqual([2, 2]);
    steps.take(7);
    expect([steps.redo(), steps.undo(), steps.first]).toEqual([null, 2, 1]);
    steps.restart(9);
    expect([steps.now, steps.first, steps.canUndo, steps.canRedo]).toEqual([9, 9, false, false]);
  });
  it('keep the last hundred', () => {
    const steps = new Steps<number>();
    for (let value = 0; value <= 150; value++) steps.take(value);
    expect(steps.first).toBe(50);
  });
});
