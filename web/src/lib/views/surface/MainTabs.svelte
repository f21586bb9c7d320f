<script lang="ts">
  import { useParams } from '$lib/state';
  import { PARAMS, SURFACE_VIEWS } from './params';

  /** The names of the main panel's pictures: the one in view is its title. */
  const params = useParams(PARAMS);
  const NAMES = { skew: 'Skew', map: 'Map', pairs: 'Pairs', measures: 'Measures' } as const;
</script>

<nav class="flex items-baseline gap-2" aria-label="Main panel">
  {#each SURFACE_VIEWS as view (view)}
    {#if params.main === view}
      <h2 class="text-[15px] font-bold" aria-current="page">{NAMES[view]}</h2>
    {:else}
      <button
        class="cursor-pointer text-[13px] text-soft underline-offset-4 hover:text-ink hover:underline"
        onclick={() => (params.main = view)}>{NAMES[view]}</button
      >
    {/if}
  {/each}
</nav>
