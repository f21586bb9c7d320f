<script lang="ts">
  import { ColumnPicker, KeptByName } from '$lib/ui';
  import { useParams } from '$lib/state';
  import { CHAIN_COLUMN_IDS, CHAIN_COLUMNS, CHAIN_SET_NAMES, CHAIN_SETS, type ChainColumnId } from '$lib/columns';
  import { keepOwnSet, loadOwnSets } from './column-sets';
  import { PARAMS } from './params';

  const params = useParams(PARAMS);
  let own = $state.raw(loadOwnSets());

  const shipped = CHAIN_SET_NAMES.map((name) => ({ name, columns: CHAIN_SETS[name] }));
  const kept = $derived(Object.entries(own).map(([name, columns]) => ({ name, columns })));
  const current = $derived.by(() => {
    const inView = params.columns.join();
    return [...shipped, ...kept].find(({ columns }) => columns.join() === inView) ?? null;
  });
  const known = CHAIN_COLUMN_IDS.map((key) => ({ key, ...CHAIN_COLUMNS[key] }));

  function choose(wanted: string): void {
    params.columns = [...shipped, ...kept].find(({ name }) => name === wanted)?.columns ?? CHAIN_SETS.quotes;
  }
  function keep(name: string): boolean {
    if (CHAIN_SET_NAMES.some((one) => one === name)) return false;
    own = keepOwnSet(name, params.columns);
    return true;
  }
</script>

<KeptByName
  label="Columns"
  groups={[
    { title: 'with the application', options: shipped },
    { title: 'kept here', options: kept },
  ]}
  {current}
  none={current ? 'usual columns' : 'own columns'}
  canKeep={!current}
  canDelete={current !== null && kept.includes(current)}
  most={40}
  onchoose={choose}
  onkeep={keep}
  ondelete={({ name }) => (own = keepOwnSet(name, null))}
/>
<ColumnPicker
  shown={params.columns}
  {known}
  most={24}
  usual={CHAIN_SETS.quotes}
  none="No column says so."
  onchange={(keys) => (params.columns = keys as ChainColumnId[])}
/>
