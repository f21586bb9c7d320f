import type { ExpiryId, OptionId } from '@umwelt/core';
import { moveExpiry, moveStrike, resolveFocus } from '$lib/data/focus';
import type { Address } from './address.svelte';
import type { SnapshotStore } from './snapshot.svelte';

/** What of the focus changes. */
export type FocusChange = (ExpiryId | { expiry?: never; settlement?: never }) &
  Partial<Pick<OptionId, 'strike' | 'side'>>;

/** The contract in focus, and the one under the pointer. */
export class FocusStore {
  /** The contract under the pointer, which is lit everywhere while it is there. */
  pointed = $state.raw<OptionId | null>(null);
  readonly current = $derived.by(() => {
    const { snapshot } = this.snapshots;
    return snapshot ? resolveFocus(snapshot, this.address.context) : null;
  });
  /** What is lit: the contract pointed at, else the focus. */
  readonly lit = $derived.by(() => {
    const { snapshot } = this.snapshots;
    return snapshot && this.pointed ? resolveFocus(snapshot, this.pointed) : this.current;
  });

  constructor(
    private readonly address: Address,
    private readonly snapshots: SnapshotStore,
  ) {
    // A contract pointed at on one underlying does not belong to another.
    $effect(() => {
      void this.address.context.symbol;
      this.pointed = null;
    });
  }

  /** Puts the focus on a contract of what is in view, or on an expiry, a strike or a side of it. */
  set({ expiry, settlement, strike, side }: FocusChange): void {
    const { context } = this.address;
    if (expiry !== undefined) Object.assign(context, { expiry, settlement });
    if (strike !== undefined) context.strike = strike;
    if (side !== undefined) context.side = side;
  }

  /** Moves the focus along strikes or expiries. */
  move(along: 'strike' | 'expiry', steps: number): void {
    const { snapshot } = this.snapshots;
    if (!snapshot || !this.current) return;
    this.pointed = null;
    const moved = along === 'strike' ? moveStrike : moveExpiry;
    this.set(moved(snapshot, this.current, steps));
  }

  /** Goes to the other side of the same strike. */
  flip(): void {
    if (!this.current) return;
    this.pointed = null;
    this.set({ side: this.current.side === 'call' ? 'put' : 'call' });
  }
}
