import { isSameExpiry, REASONS, type ExpiryId } from '@umwelt/core';
import { sendBorrowing, sendExclusion, type BorrowingRequest, type ExclusionRequest } from '$lib/data/api';
import { refitSnapshot, valueSnapshot } from '$lib/data/client';
import { problemOf } from '$lib/data/loaded.svelte';
import type { MarketStore } from './market.svelte';
import type { MomentStore } from './moment.svelte';
import { withFit, type SnapshotStore } from './snapshot.svelte';

const BY_HAND = REASONS.indexOf('by-hand');

/** What an exclusion is about: a contract, or without strike and side a whole expiry. */
type Excluded = ExpiryId & Pick<ExclusionRequest, 'strike' | 'side'>;

/** Decisions about the quotes in view: which are set aside, and which expiry borrows its curve. */
export class ExclusionStore {
  problem = $state<string | null>(null);
  /** Decisions that the server has not answered yet, and the last of them. */
  private under = 0;
  private lastSent: Promise<void> = Promise.resolve();

  /** @param reload called when what was decided has changed the data */
  constructor(
    private readonly market: MarketStore,
    private readonly moment: MomentStore,
    private readonly snapshots: SnapshotStore,
    private readonly reload: () => void,
  ) {}

  /** Sets something aside from the moment in view on, or takes it back into use. Everything is reloaded. */
  async decide(what: Excluded, decision: ExclusionRequest['verdict']): Promise<void> {
    const { current } = this.market;
    const { stored, live } = this.moment;
    if (!current || !stored || live) return;
    const wasAside = this.isAsideByHand(what);
    await this.show(what, decision);
    // One after the other, in the order in which they were said; everything is reloaded after the last.
    this.under++;
    const { symbol } = current;
    const { asof } = stored;
    const sent = this.lastSent.then(() =>
      sendExclusion(symbol, { ...what, asof, verdict: decision, wasAside, lasting: true }),
    );
    this.lastSent = sent.catch(() => undefined);
    try {
      await sent;
      this.problem = null;
    } catch (error) {
      this.problem = problemOf(error);
    }
    if (--this.under === 0) this.reload();
  }

  /**
   * Lets an expiry borrow its curve, or with null gives it its own one back. Everything that depends on it is reloaded.
   *
   * @throws Error with what is wrong with it
   */
  async borrow(request: BorrowingRequest): Promise<void> {
    const { current } = this.market;
    if (!current) return;
    await sendBorrowing(current.symbol, request);
    this.reload();
  }

  private isAsideByHand({ expiry, settlement, strike, side }: Excluded): boolean {
    const fit = this.snapshots.quoted.find((one) => isSameExpiry(one, { expiry, settlement }));
    if (!fit || strike === undefined) return fit?.expiryAside === 'by-hand';
    return fit.aside.some((one) => one.strike === strike && one.side === side && one.reason === BY_HAND);
  }

  /** Shows at once what an exclusion does to the moment in view: the server derives everything again meanwhile. */
  private async show(what: Excluded, decision: ExclusionRequest['verdict']): Promise<void> {
    const { shown } = this.snapshots;
    const at = shown?.snapshot.slices.findIndex((one) => isSameExpiry(one, what)) ?? -1;
    const fit = shown?.snapshot.slices[at]?.fit;
    if (!shown || !fit || fit.borrowed) return;
    const { strike, side } = what;
    if (strike === undefined || side === undefined) {
      const expiryAside = decision === 'aside' ? ('by-hand' as const) : null;
      this.snapshots.replace(shown, { ...shown, snapshot: withFit(shown.snapshot, at, { ...fit, expiryAside }) });
      return;
    }
    const others = fit.aside.filter((one) => one.strike !== strike || one.side !== side);
    const aside = decision === 'aside' ? [...others, { strike, side, reason: BY_HAND }] : others;
    const snapshot = await refitSnapshot(shown.snapshot, at, aside);
    if (!snapshot) return;
    const { basis, quotes, terms } = shown;
    const values = await valueSnapshot(snapshot, basis, terms, quotes);
    this.snapshots.replace(shown, { ...shown, snapshot, values });
  }
}
