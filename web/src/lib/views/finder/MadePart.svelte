<script lang="ts">
  import { useParams } from '$lib/state';
  import { NumberField, Popover, Toggles } from '$lib/ui';
  import {
    LEGS_BY,
    MOST_DAYS,
    MOST_FEE,
    MOST_OF_LEGS,
    MOST_WING,
    OWN_CHOICES,
    PARAMS,
    SLIP,
    USUAL_LEGS,
    type LegsBy,
    type OwnChoice,
  } from './params';

  /** What is made, and by which prices and vols it is measured. */
  const params = useParams(PARAMS);
  const LEGS_TITLES: Record<LegsBy, string> = {
    delta: 'delta on the forward, absolute',
    odds: 'odds to end in the money, by the curve',
    deviations: 'how many deviations of the expiry from the forward',
  };
  const OWN_TITLES: Record<OwnChoice, string> = {
    ewma: 'exponentially weighted, the same for all expiries',
    garch: 'GARCH(1,1): comes back to its mean',
    har: 'by last session, week and month',
    typed: 'one vol that you believe',
  };
</script>

{#snippet pair(
  words: string,
  label: string,
  from: 'daysFrom' | 'legsFrom' | 'wingFrom' | 'gapFrom',
  to: 'daysTo' | 'legsTo' | 'wingTo' | 'gapTo',
  most: number,
  step: number,
)}
  <span class="text-soft">{words}</span>
  <span class="flex items-center gap-1">
    <NumberField label="Least {label}" min={0} max={most} {step} class="w-14" bind:value={params[from]} />
    …
    <NumberField label="Most {label}" min={0} max={most} {step} class="w-14" bind:value={params[to]} />
  </span>
{/snippet}

<Popover label="made of …">
  {#snippet trigger()}made of …{/snippet}
  <div class="grid w-[330px] grid-cols-[max-content_1fr] items-center gap-x-3 gap-y-1.5">
    {@render pair('days to expiry', 'days', 'daysFrom', 'daysTo', MOST_DAYS, 1)}
    <span class="text-soft">sold legs by</span>
    <Toggles
      label="Legs by"
      options={LEGS_BY}
      value={params.legsBy}
      titles={(by) => LEGS_TITLES[by]}
      onchoose={(by) => {
        const [from, to] = USUAL_LEGS[by];
        Object.assign(params, { legsBy: by, legsFrom: from, legsTo: to });
      }}
    />
    {@render pair('', 'legs', 'legsFrom', 'legsTo', MOST_OF_LEGS, 0.01)}
    {@render pair('wings, deviations', 'wing', 'wingFrom', 'wingTo', MOST_WING, 0.1)}
    {@render pair('days between expiries', 'days between', 'gapFrom', 'gapTo', MOST_DAYS, 1)}
    <span class="text-soft">fill</span>
    <span class="flex items-center gap-1"
      >mid less <NumberField
        label="Share of the half spread"
        min={SLIP[0]}
        max={SLIP[1]}
        step={5}
        class="w-14"
        bind:value={params.slip}
      /> % of the half spread</span
    >
    <span class="text-soft">fee of a contract</span>
    <NumberField label="Fee" min={0} max={MOST_FEE} class="w-14" bind:value={params.contractFee} />
    <span class="text-soft">own vol</span>
    <span class="flex flex-wrap items-center gap-1">
      <Toggles label="Own vol" options={OWN_CHOICES} bind:value={params.own} titles={(one) => OWN_TITLES[one]} />
      {#if params.own === 'typed'}<NumberField
          label="Own vol in points"
          min={1}
          max={400}
          class="w-14"
          bind:value={params.ownTyped}
        /> %{/if}
    </span>
    <span></span>
    <label class="flex items-center gap-1.5"
      ><input type="checkbox" class="checkbox checkbox-xs" bind:checked={params.isOwnFlat} /> the same for all strikes, without
      the skew</label
    >
    <span class="text-soft">past moves</span>
    <label class="flex items-center gap-1.5"
      ><input type="checkbox" class="checkbox checkbox-xs" bind:checked={params.isRecentred} /> lead to the forward</label
    >
    <span class="text-soft">quotes</span>
    <label class="flex items-center gap-1.5"
      ><input type="checkbox" class="checkbox checkbox-xs" bind:checked={params.hasRefused} /> refused ones, too</label
    >
    <span class="text-soft">stress</span>
    <label class="flex items-center gap-1.5"
      ><input type="checkbox" class="checkbox checkbox-xs" bind:checked={params.hasStress} /> told of all, not only where
      a loss has no end</label
    >
  </div>
</Popover>
