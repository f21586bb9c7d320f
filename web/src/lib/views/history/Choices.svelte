<script lang="ts">
  import { ESTIMATOR_CODES, ESTIMATORS } from '@umwelt/core';
  import { useWorkbench, WINDOWS, useParams } from '$lib/state';
  import { IMPLIED_LABELS, LOWER_LABELS } from './sessions';
  import { IMPLIED_NAMES, LOOKBACKS, LOWERS, PARAMS, SPANS } from './params';
  import { Toggles } from '$lib/ui';

  /** @prop hasPath whether what the path alone shows is chosen too */
  let { hasPath }: { hasPath: boolean } = $props();

  const bench = useWorkbench();
  const params = useParams(PARAMS);
  const SPAN_WORDS = {
    '3m': '3 months',
    '6m': '6 months',
    '1y': 'a year',
    held: 'implied held',
    bars: 'all bars',
  } as const;
  const SHORT = { put25: 'put 25', call25: 'call 25', put10: 'put 10', call10: 'call 10' } as Record<string, string>;
  const TITLES = {
    close: 'close to close, mean removed',
    close0: 'close to close, mean zero',
    parkinson: 'Parkinson: high and low',
    'garman-klass': 'Garman–Klass: all four prices',
    'rogers-satchell': 'Rogers–Satchell: all four prices, whatever the drift',
    'yang-zhang': 'Yang–Zhang: all four prices and the night',
  } as const;

  const SINCE = 'since';
  /** How far back a custom range begins. */
  const SESSIONS_BACK = 120;

  function chooseSpan(wanted: string): void {
    const history = bench.market.current?.history ?? [];
    params.since = wanted === SINCE ? (history[Math.max(0, history.length - SESSIONS_BACK)]?.date ?? null) : null;
    params.span = SPANS.find((span) => span === wanted) ?? params.span;
  }

  /** One more or one fewer, but never none; the first of them is held against the other side. */
  function toggled<T>(held: readonly T[], one: T): readonly T[] {
    if (!held.includes(one)) return [...held, one];
    return held.length > 1 ? held.filter((other) => other !== one) : held;
  }
</script>

<div class="flex flex-wrap items-center gap-x-2 gap-y-1 px-3 pb-1 text-[12px]">
  {#if params.picture !== 'cone'}
    <Toggles
      label="Implied vols"
      options={IMPLIED_NAMES}
      words={(name) => SHORT[name] ?? name}
      titles={(name) => IMPLIED_LABELS[name]}
      isOn={(name) => params.implied.includes(name)}
      onchoose={(name) => {
        params.implied = toggled(params.implied, name);
      }}
    />
  {/if}
  <Toggles
    label="Estimators"
    options={ESTIMATORS}
    words={(name) => ESTIMATOR_CODES[name]}
    titles={(name) => TITLES[name]}
    isOn={(name) => params.estimators.includes(name)}
    onchoose={(name) => {
      params.estimators = toggled(params.estimators, name);
    }}
  />
  {#if params.picture !== 'cone'}
    <Toggles
      label="Window, sessions"
      options={WINDOWS}
      words={(window) => (window === 0 ? 'to expiry' : window)}
      titles={(window) => (window === 0 ? 'as many sessions as are left to the expiry in focus' : `${window} sessions`)}
      bind:value={params.window}
    />
  {/if}
  {#if hasPath}
    <select class="choice" aria-label="Below" bind:value={params.lower}>
      {#each LOWERS as lower (lower)}<option value={lower}>{LOWER_LABELS[lower].name}</option>{/each}
    </select>
    <select
      class="choice"
      aria-label="Range"
      value={params.since === null ? params.span : SINCE}
      onchange={(event) => chooseSpan(event.currentTarget.value)}
    >
      {#each SPANS as span (span)}<option value={span}>{SPAN_WORDS[span]}</option>{/each}
      <option value={SINCE}>since …</option>
    </select>
    {#if params.since !== null}
      <input
        type="date"
        class="choice"
        aria-label="Since"
        min={bench.market.current?.history[0]?.date}
        max={bench.market.current?.history.at(-1)?.date}
        value={params.since}
        onkeydown={(event) => event.stopPropagation()}
        onchange={(event) => {
          if (event.currentTarget.value) params.since = event.currentTarget.value;
        }}
      />
    {/if}
  {/if}
  {#if params.picture !== 'cone'}
    <select
      class="choice"
      aria-label="Lookback, sessions"
      title="sessions over which values are ranked"
      bind:value={params.lookback}
    >
      {#each LOOKBACKS as lookback (lookback)}
        <option value={lookback}>{lookback === 0 ? 'ranked over all' : `ranked over ${lookback}`}</option>
      {/each}
    </select>
  {/if}
</div>
