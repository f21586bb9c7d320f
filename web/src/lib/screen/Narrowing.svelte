<script lang="ts">
  import { MOST_CONDITIONS, useWorkbench } from '$lib/state';
  import { FLAGS } from './columns';
  import type { ScreenDesk } from './desk.svelte';

  let { desk }: { desk: ScreenDesk } = $props();

  const bench = useWorkbench();
</script>

<select
  class="choice w-24"
  aria-label="Flags"
  value=""
  onchange={(event) => {
    const { value } = event.currentTarget;
    const { keep } = bench.context;
    if (!keep.includes(value)) bench.context.keep = [...keep, value].slice(0, MOST_CONDITIONS);
    event.currentTarget.value = '';
  }}
>
  <option value="">flags …</option>
  {#each FLAGS as { word, formula, title } (word)}<option value={formula} {title}>{word}: {title}</option>{/each}
</select>
{#if desk.families.length > 0}
  <select
    class="choice w-24"
    aria-label="Families"
    value=""
    onchange={(event) => {
      const { value } = event.currentTarget;
      if (!bench.context.families.includes(value)) bench.context.families = [...bench.context.families, value];
      event.currentTarget.value = '';
    }}
  >
    <option value="">families …</option>
    {#each desk.families as family (family)}<option value={family}>{family}</option>{/each}
  </select>
{/if}
