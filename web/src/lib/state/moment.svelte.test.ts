import { calendarById } from '@umwelt/core';
import { describe, expect, it } from 'vitest';
import type { LoadedSnapshot } from '$lib/data/snapshot';
import type { Address } from './address.svelte';
import type { LiveFeed } from './live.svelte';
import type { MarketStore } from './market.svelte';
import { MomentStore } from './moment.svelte';

const ASOFS = [
  '2031-03-11T10:00:00.000Z',
  '2031-03-11T15:45:00.000Z',
  '2031-03-12T15:45:00.000Z',
  '2031-03-13T10:00:00.000Z',
  '2031-03-13T15:45:00.000Z',
];
const days = ['2031-03-10', '2031-03-11', '2031-03-12', '2031-03-13'];

/** The moments of three sessions, of which two have two. */
function made(asof: string | null = null) {
  const context = $state({ symbol: 'TEST', asof, ghost: null as string | null });
  const feed = $state({ snapshot: null as LoadedSnapshot | null });
  const market = {
    calendar: calendarById('MRX'),
    current: {
      symbol: 'TEST',
      snapshots: ASOFS.map((asof, i) => ({ asof, price: 100 + i, iv30: 0.2 + i / 100 })),
      history: days.map((date, i) => ({ date, asof: null, close: 98 + i })),
      events: [],
    },
  };
  let moment!: MomentStore;
  $effect.root(() => {
    moment = new MomentStore(
      { context } as unknown as Address,
      market as unknown as MarketStore,
      feed as unknown as LiveFeed,
    );
  });
  return { moment, context, feed };
}

describe('the moment in view', () => {
  it('is the latest unless another is named; steps lead to the last of each session', () => {
    const { moment, context } = made();
    expect([moment.index, moment.stops]).toEqual([4, [1, 2, 4]]);
    expect(moment.step(-1)).toBe(true);
    expect([moment.index, context.asof]).toEqual([2, ASOFS[2]]);
    expect(moment.step(-5)).toBe(true);
    expect(moment.index).toBe(1);
    expect(moment.step(-1)).toBe(false);
    moment.step(9);
    // The latest is no moment of its own: what comes next is followed.
    expect([moment.index, context.asof]).toEqual([4, null]);
  });
  it('moves by moments held, to both ends', () => {
    const { moment } = made();
    moment.stepMoment(-1);
    expect(moment.index).toBe(3);
    moment.stepMoment(-9);
    expect(moment.index).toBe(0);
    expect(moment.stepMoment(-1)).toBe(false);
  });
  it('tells the change from the close of the session before', () => {
    const { moment } = made();
    // The last close that is over at 15:45 on the 13th is that of the 12th.
    expect(moment.change).toBeCloseTo(104 / 100 - 1, 12);
  });
  it('has a ghost, which is kept by its moment', () => {
    const { moment, context } = made();
    moment.toggleGhost();
    expect([moment.ghostIndex, context.ghost]).toEqual([1, ASOFS[1]]);
    moment.toggleGhost();
    expect([moment.ghostIndex, context.ghost]).toEqual([-1, null]);
  });
  it('is the feed where that is further on than what is held, and the latest is in view', () => {
    const { moment, context, feed } = made();
    const live = (asof: string) =>
      ({
        symbol: 'TEST',
        asof,
        instant: Date.parse(asof),
        measures: { asof, price: 110 },
      }) as unknown as LoadedSnapshot;
    feed.snapshot = live('2031-03-12T12:00:00.000Z');
    expect(moment.live).toBeNull();
    feed.snapshot = live('2031-03-14T10:00:00.000Z');
    expect(moment.summary?.price).toBe(110);
    context.asof = ASOFS[2]!;
    expect([moment.live, moment.summary?.price]).toEqual([null, 102]);
  });
});
