import { getContext, setContext } from 'svelte';
import { Codec, CONTEXT, type Context, type Params } from '$lib/address';
import { forgetLoaded } from '$lib/data/api';
import { forgetSnapshots } from '$lib/data/client';
import { Address } from './address.svelte';
import { DialogStore } from './dialogs.svelte';
import { ExclusionStore } from './exclusions.svelte';
import { FocusStore } from './focus.svelte';
import { LiveFeed } from './live.svelte';
import { MarketStore } from './market.svelte';
import { MomentStore } from './moment.svelte';
import { Playback } from './playback.svelte';
import { SampleStore } from './samples.svelte';
import { SnapshotStore } from './snapshot.svelte';
import { TaskStore } from './tasks.svelte';

/** The stores of the page, which each have one duty. One per page, made by the layout. */
export class Workbench {
  readonly address: Address;
  readonly context: Context;
  readonly feed: LiveFeed;
  readonly market: MarketStore;
  readonly moment: MomentStore;
  readonly playback: Playback;
  readonly snapshot: SnapshotStore;
  readonly focus: FocusStore;
  readonly samples: SampleStore;
  readonly exclusions: ExclusionStore;
  readonly dialogs: DialogStore;
  readonly tasks: TaskStore;

  /** @param params those of the views */
  constructor(params: readonly Params<object>[]) {
    const reload = () => this.reload();
    this.address = new Address(new Codec([CONTEXT as Params<object>, ...params]));
    this.context = this.address.context;
    this.feed = new LiveFeed(() => this.context.symbol, reload);
    this.market = new MarketStore(this.address);
    this.moment = new MomentStore(this.address, this.market, this.feed);
    this.playback = new Playback(this.address, this.market, this.moment, () => this.snapshot.isDrawn);
    this.snapshot = new SnapshotStore(this.address, this.market, this.moment, this.playback, this.feed);
    this.focus = new FocusStore(this.address, this.snapshot);
    this.samples = new SampleStore(this.snapshot, this.focus);
    this.exclusions = new ExclusionStore(this.market, this.moment, this.snapshot, reload);
    this.dialogs = new DialogStore(this.market, this.snapshot, this.focus, this.samples);
    this.tasks = new TaskStore(() => this.feed.look(), reload);
  }

  /** What is wrong with what is shown; null for nothing. */
  get problem(): string | null {
    return this.market.problem ?? this.snapshot.problem ?? this.samples.problem ?? this.exclusions.problem;
  }

  /** Reloads everything; what is shown stays until the new is there. */
  reload(): void {
    forgetLoaded();
    forgetSnapshots();
    this.playback.film.forget();
    this.market.edition++;
  }
}

const KEY = Symbol('workbench');

/** Makes the workbench of a page; called once, by the layout. */
export function provideWorkbench(params: readonly Params<object>[]): Workbench {
  return setContext(KEY, new Workbench(params));
}

/** The workbench of the page. */
export function useWorkbench(): Workbench {
  return getContext<Workbench>(KEY);
}

/** Parameters of a view, as they stand in the address; they can be set. */
export function useParams<T extends object>(params: Params<T>): T {
  return useWorkbench().address.of(params);
}
