<script lang="ts">
  import { ESTIMATOR_CODES, ESTIMATORS } from '@umwelt/core';
  import { IMPLIED_NAMES, LOOKBACKS, LOWERS, SPANS, useWorkbench, WINDOWS } from '$lib/state';
  import { IMPLIED_LABELS, LOWER_LABELS } from './sessions';

  /** @prop hasPath whether what the path alone shows is chosen too */
  let { hasPath }: { hasPath: boolean } = $props();

  const bench = useWorkbench();
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
  /** How far back a range of one's own begins. */
  const SESSIONS_BACK = 120;

  function chooseSpan(wanted: string): void {
    const history = bench.current?.history ?? [];
    bench.context.since =
      wanted === SINCE ? (history[Math.max(0, history.length - SESSIONS_BACK)]?.date ?? null) : null;
    bench.context.span = SPANS.find((span) => span === wanted) ?? bench.context.span;
  }

  /** One more or one fewer, but never none; the first of them is held against the other side. */
  function toggled<T>(held: readonly T[], one: T): readonly T[] {
    if (!held.includes(one)) return [...held, one];
    return held.length > 1 ? held.filter((other) => other !== one) : held;
  }
</script>

<div class="flex flex-wrap items-center gap-x-2 gap-y-1 px-3 pb-1 text-[12px]">
  {#if bench.context.history !== 'cone'}
    <div class="toggle-group" role="group" aria-label="Implied vols">
      {#each IMPLIED_NAMES as name (name)}
        <button
          aria-pressed={bench.context.implied.includes(name)}
          title={IMPLIED_LABELS[name]}
          onclick={() => (bench.context.implied = toggled(bench.context.implied, name))}>{SHORT[name] ?? name}</button
        >
      {/each}
    </div>
  {/if}
  <div class="toggle-group" role="group" aria-label="Estimators">
    {#each ESTIMATORS as name (name)}
      <button
        aria-pressed={bench.context.estimators.includes(name)}
        title={TITLES[name]}
        onclick={() => (bench.context.estimators = toggled(bench.context.estimators, name))}
        >{ESTIMATOR_CODES[name]}</button
      >
    {/each}
  </div>
  {#if bench.context.history !== 'cone'}
    <div class="toggle-group" role="group" aria-label="Window, sessions">
      {#each WINDOWS as window (window)}
        <button
          aria-pressed={bench.context.window === window}
          title={window === 0 ? 'as many sessions as are left to the expiry in focus' : `${window} sessions`}
          onclick={() => (bench.context.window = window)}>{window === 0 ? 'to expiry' : window}</button
        >
      {/each}
    </div>
  {/if}
  {#if hasPath}
    <select class="choice" aria-label="Below" bind:value={bench.context.lower}>
      {#each LOWERS as lower (lower)}<option value={lower}>{LOWER_LABELS[lower].name}</option>{/each}
    </select>
    <select
      class="choice"
      aria-label="Range"
      value={bench.context.since === null ? bench.context.span : SINCE}
      onchange={(event) => chooseSpan(event.currentTarget.value)}
    >
      {#each SPANS as span (span)}<option value={span}>{SPAN_WORDS[span]}</option>{/each}
      <option value={SINCE}>since …</option>
    </select>
    {#if bench.context.since !== null}
      <input
        type="date"
        class="choice"
        aria-label="Since"
        min={bench.current?.history[0]?.date}
        max={bench.current?.history.at(-1)?.date}
        value={bench.context.since}
        onkeydown={(event) => event.stopPropagation()}
        onchange={(event) => {
          if (event.currentTarget.value) bench.context.since = event.currentTarget.value;
        }}
      />
    {/if}
  {/if}
  {#if bench.context.history !== 'cone'}
    <select
      class="choice"
      aria-label="Lookback, sessions"
      title="sessions over which values are ranked"
      bind:value={bench.context.lookback}
    >
      {#each LOOKBACKS as lookback (lookback)}
        <option value={lookback}>{lookback === 0 ? 'ranked over all' : `ranked over ${lookback}`}</option>
      {/each}
    </select>
  {/if}
</div>
