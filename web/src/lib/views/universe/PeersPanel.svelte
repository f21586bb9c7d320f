<script lang="ts">
  import { Chart, HeldRange } from '$lib/charts';
  import { performanceFigure } from './charts/performance';
  import { offerTable } from '$lib/exports';
  import { figures, shortDay } from '$lib/formats';
  import Sentence from '$lib/formats/Sentence.svelte';
  import { Loaded, useTheme, useWorkbench, useParams } from '$lib/state';
  import { loadPeers, peersSentence, peersTable, PEER_MEASURES, type Peers } from './peers';
  import { PARAMS, PEER_SESSIONS } from './params';
  import { DataGrid, Split, Toggles, type Head } from '$lib/ui';

  /** @prop onopen called with the symbol of one that is chosen */
  let { onopen }: { onopen: (symbol: string) => void } = $props();

  const bench = useWorkbench();
  const params = useParams(PARAMS);
  const theme = useTheme();

  const peers = new Loaded<Peers>(() => {
    const { symbol, asof } = bench.context;
    const { peerSessions, isApart, isSameKind } = params;
    void bench.market.edition;
    return symbol ? loadPeers(symbol, asof, { sessions: peerSessions, isApart, isSameKind }) : undefined;
  });
  let lit = $state<string | null>(null);
  const shown = $derived(peers.value?.symbol === bench.context.symbol ? peers.value : null);

  const range = new HeldRange();
  const figure = $derived(
    shown && shown.performance.days.length > 1
      ? performanceFigure({
          ...shown.performance,
          lit,
          key: `${shown.symbol} ${shown.sessions} ${shown.performance.lines.map(({ symbol }) => symbol).join()}`,
          tokens: theme.tokens,
          range,
        })
      : null,
  );
  /** Above the diagonal returns, below it changes of iv30. */
  const together = $derived(
    shown?.together.symbols.map((symbol, i) => ({
      symbol,
      cells: shown.together.returns[i]!.map((value, j) =>
        i === j ? null : { value: j > i ? value : shown.together.vols[i]![j]!, isVol: j < i },
      ),
    })) ?? [],
  );
  const shade = (value: number | null, isVol: boolean) =>
    value === null
      ? ''
      : `background: color-mix(in srgb, var(--${value < 0 ? 'loss' : isVol ? 'implied' : 'realized'}) ${Math.round(34 * Math.abs(value))}%, transparent)`;
  const correlation = (value: number | null) => figures.fixed(value, 2);

  offerTable(
    'peers',
    () => `Peers of ${bench.context.symbol}`,
    () => (shown ? peersTable(shown) : null),
  );

  const heads = $derived<readonly Head[]>([
    { label: 'underlying', align: 'left' },
    { label: 'kind', align: 'left' },
    { label: 'returns', title: 'correlation of returns by session' },
    { label: 'iv30', title: 'correlation of the changes of iv30' },
    { label: 'beta', title: `slope of its returns on those of ${bench.context.symbol}` },
    { label: 'implied beta', title: 'the correlation of returns times the ratio of iv30' },
    ...PEER_MEASURES.map(({ label, title }) => ({ label, title })),
  ]);

  const togetherHeads = $derived<readonly Head[]>([
    { label: '' },
    ...together.map(({ symbol }) => ({ label: symbol, class: 'px-1!' })),
  ]);
</script>

{#snippet measured(values: Peers['own'])}
  {#each PEER_MEASURES as { name, write } (name)}
    <td class="cell">{write(values[shown!.measures.indexOf(name)] ?? null)}</td>
  {/each}
{/snippet}

<div class="flex items-center gap-2 px-3 pb-1 text-[12px]">
  <span class="text-soft">
    those that move most like <b class="text-ink">{bench.context.symbol}</b>, one of each other family, by returns and
    by changes of iv30 over {figures.counted(shown?.sessions ?? params.peerSessions, 'session')}
  </span>
  <span class="flex-1"></span>
  <Toggles
    label="Which"
    options={['isApart', 'isSameKind'] as const}
    words={(one) => (one === 'isApart' ? 'without family' : 'same kind')}
    titles={(one) => (one === 'isApart' ? 'leave out those of its own family' : 'leave out those of other kinds')}
    isOn={(one) => params[one]}
    onchoose={(one) => (params[one] = !params[one])}
  />
  <Toggles label="Sessions compared" options={PEER_SESSIONS} bind:value={params.peerSessions} />
</div>
{#if peers.problem}
  <p class="p-6 text-center text-loss" role="alert">{peers.problem}</p>
{:else if !shown}
  <p class="p-6 text-center text-soft">Loading …</p>
{:else if shown.peers.length === 0}
  <p class="p-6 text-center text-soft">
    Nothing of that sort is held over the same sessions: bars or chains of at least 20 sessions are needed.
  </p>
{:else}
  {#snippet table()}
    <DataGrid
      label="Peers"
      {heads}
      rows={shown.peers}
      keyOf={({ symbol }) => symbol}
      isDense
      area="min-h-0 flex-1 overflow-auto px-3"
      testid="peers"
      rowClass={({ symbol }) => ['h-[24px]', symbol === lit && 'text-focus']}
      onpoint={(peer) => (lit = peer?.symbol ?? null)}
      onchoose={({ symbol }) => onopen(symbol)}
    >
      {#snippet first()}<tr class="h-[24px] border-b border-line bg-band">
          <td class="text-[12px] whitespace-nowrap"><b class="inline-block w-[72px]">{shown.symbol}</b></td>
          <td colspan="5" class="text-[12px] text-soft">itself</td>
          {@render measured(shown.own)}
        </tr>
      {/snippet}
      {#snippet row(peer)}
        <td class="text-[12px] whitespace-nowrap"
          ><a
            class="inline-block w-[72px] font-bold"
            href="/surface?symbol={peer.symbol}"
            tabindex="-1"
            onclick={(event) => {
              event.preventDefault();
              event.stopPropagation();
              onopen(peer.symbol);
            }}>{peer.symbol}</a
          ><span class="text-soft">{peer.name}</span></td
        >
        <td class="text-[12px] whitespace-nowrap text-soft"
          ><span class={peer.isSameKind ? 'text-ink' : ''}>{peer.kind}</span>{peer.isSameFamily ? ', family' : ''}</td
        >
        <td class="cell" style={shade(peer.returns, false)}>{correlation(peer.returns)}</td>
        <td class="cell" style={shade(peer.vols, true)}>{correlation(peer.vols)}</td>
        <td class="cell">{figures.fixed(peer.beta, 2)}</td>
        <td class="cell">{figures.fixed(peer.impliedBeta, 2)}</td>
        {@render measured(peer.measures)}
      {/snippet}
    </DataGrid>
  {/snippet}
  {#snippet prices()}
    <div class="flex min-w-0 flex-1 flex-col pl-3">
      <h3 class="m-0 text-[12px] font-semibold">
        Prices, {shortDay(shown.performance.days[0]!)}
        {shown.performance.days[0]!.slice(0, 4)} as 100
      </h3>
      {#if figure}<Chart {figure} name="performance" label="Prices of {shown.symbol} and its peers from 100 on" />{/if}
    </div>
  {/snippet}
  {#snippet matrix()}
    <div class="min-h-0 min-w-0 flex-1 overflow-auto pr-3">
      <h3 class="m-0 text-[12px] font-semibold">
        Together: <span class="text-realized">returns above</span>, <span class="text-implied">iv30 below</span>
      </h3>
      <DataGrid
        label="How they move together"
        heads={togetherHeads}
        rows={together}
        keyOf={({ symbol }) => symbol}
        isDense
        area="flex-none"
        testid="together"
      >
        {#snippet row({ symbol, cells })}
          <th class="pr-1 text-left text-[11px] font-normal text-soft">{symbol}</th>
          {#each cells as cell, j (j)}
            <td class="cell h-[19px]" style={cell ? shade(cell.value, cell.isVol) : ''}
              >{cell ? correlation(cell.value) : ''}</td
            >
          {/each}
        {/snippet}
      </DataGrid>
    </div>
  {/snippet}
  {#snippet pictures()}
    <Split
      id="peers-pictures"
      direction="horizontal"
      label="Width of the prices"
      size={60}
      first={prices}
      second={matrix}
    />
  {/snippet}
  <Split id="peers" direction="vertical" label="Height of the peers" size={47} first={table} second={pictures} />
  <div class="p-2.5"><Sentence sentence={peersSentence(shown)} /></div>
{/if}
