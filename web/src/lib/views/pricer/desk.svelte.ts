import type { Contract, Move, SideReading, Side } from '@umwelt/core';
import { untrack } from 'svelte';
import { figures } from '$lib/formats';
import type { Workbench } from '$lib/state';
import { Latest } from '$lib/data/latest';
import { pricerWorker } from './worker';
import {
  applyChanges,
  contractOf,
  readChanges,
  readField,
  termsOfFocus,
  writeChanges,
  writeField,
  type Changes,
  type FieldName,
  type Terms,
} from './terms';
import { PARAMS, type PricerParams } from './params';

/** How money is counted. */
export const PER = ['unit', 'contract', 'position'] as const;
export type Per = (typeof PER)[number];

/** Both sides as they were last priced, and what they were priced by. */
export interface Priced {
  terms: Terms;
  call: SideReading;
  put: SideReading;
}

/** What the Pricer shows: the contract in focus with what is typed over it, and the answers of the worker. */
export class PricerDesk {
  private readonly params: PricerParams;
  /** Typed texts that could not be read; what they say is shown, what was read before stays in use. */
  private drafts = $state<Changes>({});
  priced = $state.raw<Priced | null>(null);
  move = $state.raw<{ move: Move; to: Terms } | null>(null);
  problem = $state<string | null>(null);
  per = $state<Per>('unit');

  readonly zone = $derived.by(() => this.bench.market.calendar.zone);
  /** Decimals that the underlying's tick needs. */
  readonly decimals = $derived.by(() => figures.decimalsOf(this.bench.market.underlying?.tick));
  /** Where the curve of the contract's expiry is taken from, when it is not its own. */
  readonly borrowed = $derived.by(() => {
    const { shown } = this.bench.snapshot;
    const { current: focus } = this.bench.focus;
    return (shown && focus && shown.snapshot.slices[focus.slice]?.fit.borrowed) || null;
  });
  readonly side = $derived.by(() => this.bench.focus.current?.side ?? 'call');
  /** The state that was loaded: the contract in focus, as the chain has it. */
  readonly reference = $derived.by((): Terms | null => {
    const { shown } = this.bench.snapshot;
    const { current: focus } = this.bench.focus;
    const { calendar, underlying } = this.bench.market;
    return shown && focus && underlying ? termsOfFocus(shown, focus, calendar, underlying.multiplier) : null;
  });
  readonly changes = $derived.by(() => readChanges(this.params.changes));
  readonly changed = $derived.by(() => (this.reference ? applyChanges(this.reference, this.changes, this.zone) : null));
  readonly terms = $derived.by(() => this.changed?.terms ?? null);
  readonly problems = $derived.by((): Partial<Record<FieldName, string>> => {
    const found = { ...this.changed?.problems };
    for (const [name, text] of Object.entries(this.drafts) as [FieldName, string][]) {
      const read = this.terms && readField(name, text, this.terms, this.zone);
      if (read && 'problem' in read) found[name] = read.problem;
    }
    return found;
  });
  readonly isOld = $derived.by(() => Object.keys(this.problems).length > 0 || this.priced?.terms !== this.terms);
  readonly contract = $derived.by((): Contract | null => (this.terms ? contractOf(this.terms, this.side) : null));
  /** By what money is multiplied. */
  readonly factor = $derived.by(() => {
    const { multiplier = 1, quantity = 1 } = this.priced?.terms ?? {};
    return this.per === 'unit' ? 1 : this.per === 'contract' ? multiplier : multiplier * quantity;
  });

  private readonly reading = new Latest<Priced>(
    (priced) => {
      this.priced = priced;
      this.problem = null;
    },
    (problem) => (this.problem = problem),
  );
  private readonly moving = new Latest<{ move: Move; to: Terms }>(
    (moved) => (this.move = moved),
    (problem) => (this.problem = problem),
  );

  constructor(private readonly bench: Workbench) {
    this.params = bench.address.of(PARAMS);
    $effect(() => {
      const { terms, reference, side } = this;
      if (!terms || !reference || Object.keys(this.problems).length > 0) return;
      untrack(() => this.work(terms, reference, side));
    });
  }

  private work(terms: Terms, reference: Terms, side: Side): void {
    const worker = pricerWorker();
    this.reading.ask(async () => ({
      terms,
      ...(await worker.read(contractOf(terms, 'call'), contractOf(terms, 'put'))),
    }));
    // A move is along inputs: the reference is taken on the model in use.
    const { model, exercise, steps } = terms;
    const from = { ...reference, model, exercise, steps };
    this.moving.ask(async () => ({
      move: await worker.move(contractOf(from, side), contractOf(terms, side)),
      to: terms,
    }));
  }

  /** What a field shows. */
  text(name: FieldName): string {
    return this.drafts[name] ?? (this.terms ? writeField(name, this.terms, this.zone) : '');
  }

  /** What a field held when it was loaded; null where it is not changed. */
  was(name: FieldName): string | null {
    if (!this.reference || !this.terms) return null;
    const old = writeField(name, this.reference, this.zone);
    return old === writeField(name, this.terms, this.zone) ? null : old;
  }

  /** Takes what is typed into a field, or keeps it beside the last good value. */
  type(name: FieldName, text: string): void {
    if (!this.terms || !this.reference) return;
    const read = readField(name, text, this.terms, this.zone);
    if ('problem' in read) {
      this.drafts = { ...this.drafts, [name]: text };
      return;
    }
    const { [name]: _, ...drafts } = this.drafts;
    this.drafts = drafts;
    const changes: Changes = { ...this.changes, [name]: text.trim() };
    // Days that are typed stand for themselves until a date is typed.
    if (name === 'valued' || name === 'expires') changes.days = undefined;
    if (text.trim() === writeField(name, this.reference, this.zone)) changes[name] = undefined;
    this.params.changes = writeChanges(changes);
  }

  /** Puts a field back to what was loaded. */
  reset(name: FieldName): void {
    const { [name]: _, ...drafts } = this.drafts;
    const { [name]: __, ...changes } = this.changes;
    this.drafts = drafts;
    this.params.changes = writeChanges(changes);
  }

  /** Puts everything back to the contract in focus. */
  load(): void {
    this.drafts = {};
    this.params.changes = '';
  }
}
