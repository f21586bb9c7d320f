<script lang="ts">
  import { useParams, problemOf } from '$lib/state';
  import { KeptByName } from '$lib/ui';
  import { expandColumns, SHIPPED_SCREENS, shortColumns, USUAL, type Screen } from '$lib/columns';
  import { Refusal } from '$lib/api/call';
  import { dropKept, keepScreen, loadKept, type KeptScreen } from './kept';
  import { showScreen } from './shipped';
  import { PARAMS } from './params';

  const params = useParams(PARAMS);

  let kept = $state.raw<KeptScreen[]>([]);
  let problem = $state<string | null>(null);
  /** The one of the same name that there is already. */
  let other = $state.raw<KeptScreen | null>(null);
  /** What was deleted last, to be brought back. */
  let gone = $state.raw<KeptScreen | null>(null);

  async function attempt(work: Promise<KeptScreen[]>): Promise<boolean> {
    try {
      kept = await work;
      problem = other = null;
      return true;
    } catch (error) {
      other = error instanceof Refusal && error.current ? (error.current as KeptScreen) : null;
      problem = other ? `“${other.name}” is kept already` : problemOf(error);
      return false;
    }
  }
  $effect(() => {
    void attempt(loadKept());
  });

  const named = (screen: Omit<Screen, 'name'>) => {
    const sort = screen.sort || PARAMS.start.sort;
    return JSON.stringify([expandColumns(screen.columns), screen.filters, screen.kinds, screen.families, sort]);
  };
  const inView = $derived.by(() => {
    const { show, keep, kinds, families, sort } = params;
    return { columns: shortColumns(show), filters: [...keep], kinds: [...kinds], families: [...families], sort };
  });
  const isSame = (screen: Screen) => named(screen) === named(inView);
  const all = $derived([...kept, ...SHIPPED_SCREENS]);
  const current = $derived(all.find(isSame) ?? null);
  const USUAL_SCREEN: Omit<Screen, 'name'> = { columns: [USUAL], filters: [], kinds: [], families: [], sort: '' };
  const isEmpty = $derived(named(inView) === named(USUAL_SCREEN));
  const held = $derived(kept.find((one) => one === current) ?? null);

  const choose = (wanted: string) => showScreen(all.find(({ name }) => name === wanted) ?? USUAL_SCREEN, params);

  async function keep(name: string): Promise<boolean> {
    const isKept = await attempt(keepScreen({ name, ...inView }, other?.name === name ? other.version : null));
    if (isKept) gone = null;
    return isKept;
  }

  async function drop(screen: KeptScreen): Promise<void> {
    if (await attempt(dropKept(screen.id))) gone = screen;
  }

  async function undo(screen: KeptScreen): Promise<void> {
    if (await attempt(keepScreen(screen))) gone = null;
  }
</script>

<div class="flex items-center gap-1.5 text-[12px]">
  <KeptByName
    label="Screen"
    groups={[
      { title: 'kept', options: kept },
      { title: 'with the application', options: SHIPPED_SCREENS },
    ]}
    {current}
    none={isEmpty ? 'screens …' : current ? 'none' : 'not kept'}
    canKeep={!isEmpty && !current}
    canDelete={held !== null}
    replaces={(name) => other?.name === name}
    {gone}
    onchoose={choose}
    onkeep={keep}
    ondelete={() => held && drop(held)}
    onundo={() => gone && undo(gone)}
  />
  {#if problem}<span class="text-loss" role="alert">{problem}</span>{/if}
</div>
