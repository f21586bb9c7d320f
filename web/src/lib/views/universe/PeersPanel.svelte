<script lang="ts">
  import { Chart, HeldRange } from '$lib/charts';
  import { performanceFigure } from './charts/performance';
  import { offerTable } from '$lib/exports';
  import { figures, shortDay } from '$lib/formats';
  import Sentence from '$lib/formats/Sentence.svelte';
  import { Loaded, useTheme, useWorkbench, useParams } from '$lib/state';
  import { loadPeers, peersSentence, peersTable, PEER_MEASURES, type Peers } from './peers';
  import { PARAMS, PEER_SESSIONS } from './params';
  import { Toggles } from '$lib/ui';

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
  <div class="flex max-h-[48%] min-h-0 flex-none overflow-auto px-3">
    <table class="dense w-full border-collapse" data-testid="peers">
      <thead>
        <tr>
          <th class="head-cell pl-0! text-left!">underlying</th>
          <th class="head-cell text-left!">kind</th>
          <th class="head-cell" title="correlation of returns by session">returns</th>
          <th class="head-cell" title="correlation of the changes of iv30">iv30</th>
          <th class="head-cell" title="slope of its returns on those of {shown.symbol}">beta</th>
          <th class="head-cell" title="the correlation of returns times the ratio of iv30">implied beta</th>
          {#each PEER_MEASURES as { name, label, title } (name)}<th class="head-cell" {title}>{label}</th>{/each}
        </tr>
      </thead>
      <tbody>
        <tr class="h-[24px] border-b border-line bg-band">
          <td class="text-[12px] whitespace-nowrap"><b class="inline-block w-[72px]">{shown.symbol}</b></td>
          <td colspan="5" class="text-[12px] text-soft">itself</td>
          {@render measured(shown.own)}
        </tr>
        {#each shown.peers as peer (peer.symbol)}
          <tr
            class="h-[24px] cursor-pointer border-b border-line hover:bg-band {peer.symbol === lit ? 'text-focus' : ''}"
            onpointerenter={() => (lit = peer.symbol)}
            onpointerleave={() => (lit = null)}
            onclick={() => onopen(peer.symbol)}
          >
            <td class="text-[12px] whitespace-nowrap"
              ><a
                class="inline-block w-[72px] font-bold"
                href="/surface?symbol={peer.symbol}"
                onfocus={() => (lit = peer.symbol)}
                onblur={() => (lit = null)}
                onclick={(event) => {
                  event.preventDefault();
                  event.stopPropagation();
                  onopen(peer.symbol);
                }}>{peer.symbol}</a
              ><span class="text-soft">{peer.name}</span></td
            >
            <td class="text-[12px] whitespace-nowrap text-soft"
              ><span class={peer.isSameKind ? 'text-ink' : ''}>{peer.kind}</span>{peer.isSameFamily
                ? ', family'
                : ''}</td
            >
            <td class="cell" style={shade(peer.returns, false)}>{correlation(peer.returns)}</td>
            <td class="cell" style={shade(peer.vols, true)}>{correlation(peer.vols)}</td>
            <td class="cell">{figures.fixed(peer.beta, 2)}</td>
            <td class="cell">{figures.fixed(peer.impliedBeta, 2)}</td>
            {@render measured(peer.measures)}
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
  <div class="flex min-h-0 flex-1 gap-3 px-3 pt-2">
    <div class="flex min-w-0 flex-1 flex-col">
      <h3 class="m-0 text-[12px] font-semibold">
        Prices, {shortDay(shown.performance.days[0]!)}
        {shown.performance.days[0]!.slice(0, 4)} as 100
      </h3>
      {#if figure}<Chart {figure} name="performance" label="Prices of {shown.symbol} and its peers from 100 on" />{/if}
    </div>
    <div class="min-h-0 flex-none overflow-auto">
      <h3 class="m-0 text-[12px] font-semibold">
        Together: <span class="text-realized">returns above</span>, <span class="text-implied">iv30 below</span>
      </h3>
      <table class="dense border-collapse" data-testid="together">
        <thead>
          <tr>
            <td></td>
            {#each together as { symbol } (symbol)}<th class="head-cell px-1!">{symbol}</th>{/each}
          </tr>
        </thead>
        <tbody>
          {#each together as { symbol, cells } (symbol)}
            <tr>
              <th class="pr-1 text-left text-[11px] font-normal text-soft">{symbol}</th>
              {#each cells as cell, j (j)}
                <td class="cell h-[19px]" style={cell ? shade(cell.value, cell.isVol) : ''}
                  >{cell ? correlation(cell.value) : ''}</td
                >
              {/each}
            </tr>
          {/each}
        </tbody>
      </table>
    </div>
  </div>
  <div class="p-2.5"><Sentence sentence={peersSentence(shown)} /></div>
{/if}
