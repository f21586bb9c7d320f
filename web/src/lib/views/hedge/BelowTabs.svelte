<script lang="ts">
  import { TitleTabs } from '$lib/ui';
  import type { HedgeDesk } from './desk.svelte';
  import { BELOWS } from './params';

  /** What is under the steps. */
  let { desk }: { desk: HedgeDesk } = $props();
</script>

<TitleTabs
  label="Under the steps"
  options={BELOWS}
  names={{ ahead: 'Profit', past: 'Hedged past' }}
  bind:value={desk.params.below}
/>
