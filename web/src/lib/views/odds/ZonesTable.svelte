<script lang="ts">
  import { depthColor } from '$lib/charts';
  import { lawStyle } from './charts/laws';
  import { offerTable } from '$lib/exports';
  import { figures, shortExpiry, zoneWords } from '$lib/formats';
  import { useTheme, useWorkbench, useParams } from '$lib/state';
  import { numberColumns } from '$lib/tables';
  import { DataGrid, type Head, Worked } from '$lib/ui';
  import type { OddsDesk } from './desk.svelte';
  import { zonesOf } from './laws';
  import { zoneWork } from './work';
  import { PARAMS, type LawName } from './params';

  let { desk }: { desk: OddsDesk } = $props();

  const bench = useWorkbench();
  const params = useParams(PARAMS);
  const theme = useTheme();
  const decimals = $derived(bench.market.decimals);
  const slices = $derived(bench.snapshot.shown?.snapshot.slices ?? []);

  const byLaw = $derived(desk.zones);
  const words = $derived((byLaw.find(({ law }) => law)?.zones ?? []).map((zone) => zoneWords(zone, decimals)));
  /** The law of the basis in use of every expiry, whatever the levels. */
  const laws = $derived.by(() => {
    const { basis } = bench.context;
    return slices.map((_, at) => desk.lawsAt([basis === 'own' ? 'level' : basis], at)[0]);
  });
  /** The same zones of every expiry: those of a preset are each expiry's own. */
  const byExpiry = $derived(
    slices.map((slice, at) => {
      const law = laws[at];
      const zones = zonesOf(law?.law ?? null, slice.fit.forward, desk.levelsAt(slice));
      return { slice, at, zones, missing: law?.missing };
    }),
  );
  function openExpiry(at: number, i: number): void {
    const [row, used] = [byExpiry.find((one) => one.at === at), laws[at]];
    if (!row || !used?.law) return;
    bench.dialogs.work = zoneWork(row.zones[i]!, row.slice.fit, used, [], decimals);
  }
  const isOwnLevels = $derived(params.preset === 'deviation' || params.preset === 'deviations');

  offerTable(
    'zones',
    () => `Odds of zones of ${bench.context.symbol}`,
    () => ({
      columns: [
        { name: 'expiry', type: 'day' },
        { name: 'law', type: 'text' },
        ...numberColumns(['from', 'to', 'odds']),
      ],
      rows: [
        ...byLaw.flatMap(({ name, zones }) =>
          zones.map(({ from, to, probability }) => [desk.slice!.expiry, name, from, to, probability]),
        ),
        ...byExpiry.flatMap(({ slice, at, zones }) =>
          at === desk.at
            ? []
            : zones.map(({ from, to, probability }) => [slice.expiry, bench.context.basis, from, to, probability]),
        ),
      ],
    }),
  );

  const heads = $derived<readonly Head[]>([
    { label: desk.slice ? shortExpiry(desk.slice) : '', align: 'left' },
    ...byLaw.map(({ name }): Head => ({ label: name, hasParts: true })),
  ]);

  const expiryHeads = $derived<readonly Head[]>([
    { label: `${bench.context.basis}, %`, title: 'on the basis in use', align: 'left' },
    ...words.map((zone, i) => ({
      label: isOwnLevels ? (i === 0 ? 'under' : i === words.length - 1 ? 'over' : 'within') : zone,
    })),
  ]);
</script>

<div class="grid min-h-0 flex-1 grid-cols-2 gap-3 px-2 pb-2">
  <DataGrid
    label="Zones by law"
    {heads}
    rows={words}
    keyOf={(zone) => zone}
    isDense
    area="min-h-0 overflow-auto"
    testid="zones-by-law"
    none="No law of this expiry is known."
  >
    {#snippet head({ label }: Head)}
      <span style="color: color-mix(in srgb, {lawStyle(label as LawName, theme.tokens).color} 45%, var(--ink))"
        >{label}</span
      >
    {/snippet}
    {#snippet row(zone, i)}
      <th class="cell text-left! font-normal">{zone}</th>
      {#each byLaw as { name, zones, missing } (name)}
        {@const odds = zones[i]?.probability ?? NaN}
        <td class="cell relative" title={missing || undefined}>
          <span
            class="absolute inset-y-[3px] left-0 opacity-20"
            style="width: {100 * Math.max(0, Math.min(1, odds || 0))}%; background: {lawStyle(name, theme.tokens)
              .color}"
          ></span>
          <span class="relative"
            ><Worked open={() => (bench.dialogs.work = desk.zoneWork(name, i))}>{figures.fixed(100 * odds, 1)}</Worked
            ></span
          >
        </td>
      {/each}
    {/snippet}
  </DataGrid>
  <DataGrid
    label="Zones by expiry"
    heads={expiryHeads}
    rows={byExpiry}
    keyOf={({ at }) => at}
    isDense
    area="min-h-0 overflow-auto"
    testid="zones-by-expiry"
    isLit={({ at }) => at === desk.at}
    onchoose={({ slice }) => bench.focus.set({ expiry: slice.expiry, settlement: slice.settlement })}
  >
    {#snippet row({ slice, at, zones, missing })}
      <th class="cell text-left! font-[inherit]"
        ><span class="flex items-center gap-1.5"
          ><span class="size-2.5 rounded-[2px]" style="background: {depthColor(slice.fit.days, theme.tokens)}"
          ></span>{shortExpiry(slice, bench.snapshot.shown?.snapshot.asof.slice(0, 4))}</span
        ></th
      >
      {#each zones as zone, i (i)}
        <td class="cell" title={zoneWords(zone, decimals)}
          ><Worked open={() => openExpiry(at, i)}>{figures.fixed(100 * zone.probability, 1)}</Worked></td
        >
      {:else}
        <td class="cell text-left! text-soft" colspan={Math.max(1, words.length)}>{missing}</td>
      {/each}
    {/snippet}
  </DataGrid>
</div>
