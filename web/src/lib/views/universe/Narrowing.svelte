<script lang="ts">
  import { useParams } from '$lib/state';
  import { FLAGS } from '$lib/columns';
  import type { ScreenDesk } from './desk.svelte';
  import { eachOnce } from './rows';
  import { MOST_CONDITIONS, PARAMS } from './params';

  let { desk }: { desk: ScreenDesk } = $props();

  const params = useParams(PARAMS);
  const flags = FLAGS.map(({ word, formula, title }) => ({ value: formula, text: `${word}: ${title}` }));

  function addFlag(formula: string): void {
    params.keep = eachOnce([...params.keep, formula]).slice(0, MOST_CONDITIONS);
  }

  function addFamily(family: string): void {
    params.families = eachOnce([...params.families, family]);
  }
</script>

{#snippet choice(label: string, options: readonly { value: string; text: string }[], add: (value: string) => void)}
  <select
    class="choice w-24"
    aria-label={label}
    value=""
    onchange={(event) => {
      add(event.currentTarget.value);
      event.currentTarget.value = '';
    }}
  >
    <option value="">{label.toLowerCase()} …</option>
    {#each options as { value, text } (value)}<option {value}>{text}</option>{/each}
  </select>
{/snippet}

{@render choice('Flags', flags, addFlag)}
{#if desk.families.length > 0}
  {@render choice(
    'Families',
    desk.families.map((family) => ({ value: family, text: family })),
    addFamily,
  )}
{/if}
