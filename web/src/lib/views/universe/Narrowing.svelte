<script lang="ts">
  import { useParams } from '$lib/state';
  import { FLAGS } from '$lib/columns';
  import { ChoiceMenu } from '$lib/ui';
  import type { ScreenDesk } from './desk.svelte';
  import { eachOnce } from './rows';
  import { MOST_CONDITIONS, PARAMS } from './params';

  let { desk }: { desk: ScreenDesk } = $props();

  const params = useParams(PARAMS);
  const flags = FLAGS.map(({ word, formula, title }) => ({ value: formula, word, title }));

  function changed(list: readonly string[], value: string, isChosen: boolean): string[] {
    return isChosen ? eachOnce([...list, value]) : list.filter((other) => other !== value);
  }
</script>

<!-- A flag is a condition with a name. -->
<ChoiceMenu
  label="flags"
  options={flags}
  chosen={params.keep}
  onchange={(formula, isChosen) => (params.keep = changed(params.keep, formula, isChosen).slice(0, MOST_CONDITIONS))}
/>
{#if desk.families.length > 0}
  <ChoiceMenu
    label="families"
    options={desk.families.map((value) => ({ value, word: value }))}
    chosen={params.families}
    onchange={(family, isChosen) => (params.families = changed(params.families, family, isChosen))}
  />
{/if}
