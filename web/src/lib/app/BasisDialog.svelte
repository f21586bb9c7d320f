<script lang="ts">
  import { DRIFTS, ESTIMATORS } from '@umwelt/core';
  import { figures } from '$lib/formats';
  import { MOST_MANUAL, PAST_LAWS, useWorkbench, WINDOWS } from '$lib/state';
  import { Dialog } from '$lib/ui';

  let { isOpen = $bindable() }: { isOpen: boolean } = $props();
  const bench = useWorkbench();
  const { context } = $derived(bench);

  const LAWS = {
    lognormal: 'lognormal with that vol',
    stretches: 'past moves as long as the expiry is away, each once',
    blocks: '100 000 paths of past blocks of five sessions',
  } as const;
  const DRIFT_WORDS = {
    forward: 'recentred on the forward',
    none: 'without drift',
    kept: 'with the drift they had',
  } as const;

  const sample = $derived(bench.focus.lit ? bench.samples.of(bench.focus.lit.slice) : undefined);
  const fit = $derived(
    bench.focus.lit && bench.snapshot.shown ? bench.snapshot.shown.snapshot.slices[bench.focus.lit.slice]!.fit : null,
  );
  const sampleWords = $derived.by(() => {
    if (context.pastLaw === 'lognormal' || !fit) return '';
    if (sample === undefined) return 'drawing …';
    if (sample === null)
      return fit.sessions < 1
        ? 'The expiry in focus ends within the session: no past move is so short.'
        : `Too few bars are held for moves of ${figures.counted(fit.sessions, 'session')}.`;
    return `${figures.count(sample.ends.length)} ${context.pastLaw === 'stretches' ? 'moves' : 'paths'} of ${figures.counted(fit.sessions, 'session')}; ${figures.counted(sample.independent, 'such stretch').replace('stretchs', 'stretches')} would not overlap.`;
  });

  function typeVol(kind: 'vol' | 'shift', input: HTMLInputElement): void {
    const value = input.valueAsNumber / 100;
    const isSense = Number.isFinite(value) && Math.abs(value) <= MOST_MANUAL && (kind === 'shift' || value > 0);
    input.setCustomValidity(isSense ? '' : kind === 'vol' ? 'a vol over 0 is wanted' : 'a number of points is wanted');
    input.reportValidity();
    if (isSense) {
      context.manual = { kind, value };
      context.basis = 'manual';
    }
  }
</script>

<Dialog title="What the bases are" bind:isOpen>
  <dl class="m-0 grid grid-cols-[92px_1fr] gap-x-3 gap-y-2 text-[12px] [&_dd]:m-0 [&_dt]:font-semibold">
    <dt>own</dt>
    <dd>
      implied by the contract’s own
      <select class="choice" aria-label="Quote of own vols" bind:value={context.quotes}>
        <option>mid</option><option>bid</option><option>ask</option>
      </select>
    </dd>
    <dt>curve</dt>
    <dd>the fitted curve of its expiry, at its strike; odds count its slope</dd>
    <dt>level</dt>
    <dd>the vol at the forward of its expiry, one for all strikes</dd>
    <dt>index</dt>
    <dd>the 30-day variance index, one for everything</dd>
    <dt class="text-realized">realized</dt>
    <dd class="flex flex-col gap-1.5">
      <span>
        <select class="choice" aria-label="Estimator" bind:value={context.realizedBy}>
          {#each ESTIMATORS as estimator (estimator)}<option>{estimator}</option>{/each}
        </select>
        over
        <select class="choice" aria-label="Sessions of the estimator" bind:value={context.realizedWindow}>
          {#each WINDOWS as window (window)}<option value={window}
              >{window === 0 ? 'as many as are left to the expiry' : `${window} sessions`}</option
            >{/each}
        </select>
      </span>
      <span>
        odds
        <select class="choice" aria-label="Law of realized" bind:value={context.pastLaw}>
          {#each PAST_LAWS as law (law)}<option value={law}>{LAWS[law]}</option>{/each}
        </select>
      </span>
      {#if context.pastLaw !== 'lognormal'}
        <span>
          <select class="choice" aria-label="Drift of past moves" bind:value={context.drift}>
            {#each DRIFTS as drift (drift)}<option value={drift}>{DRIFT_WORDS[drift]}</option>{/each}
          </select>
        </span>
        <span class="text-soft" data-testid="sample-words">{sampleWords}</span>
      {/if}
    </dd>
    <dt>manual</dt>
    <dd class="flex flex-wrap items-center gap-2">
      {#each ['vol', 'shift'] as const as kind (kind)}
        <label class="flex items-center gap-1">
          {kind === 'vol' ? 'one vol' : 'or the curve shifted by'}
          <input
            class="figures w-16 rounded-[3px] border border-line bg-panel px-1 text-right"
            type="number"
            step="any"
            aria-label={kind === 'vol' ? 'Manual vol in per cent' : 'Shift of the curve in points'}
            value={context.manual.kind === kind ? Math.round(context.manual.value * 1e6) / 1e4 : ''}
            onkeydown={(event) => event.stopPropagation()}
            onchange={(event) => typeVol(kind, event.currentTarget)}
          />
          {kind === 'vol' ? '%' : 'points'}
        </label>
      {/each}
    </dd>
  </dl>
  <div class="flex justify-end pt-3"><button class="btn btn-xs" onclick={() => (isOpen = false)}>done</button></div>
</Dialog>
