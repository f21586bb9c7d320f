<script lang="ts">
  import { useParams } from '$lib/state';
  import type { StructureDesk } from './desk.svelte';
  import { PARAMS } from './params';

  /** What stands beside: nothing, the structure as it is now or as it was when it came, while it is changed. */
  let { desk }: { desk: StructureDesk } = $props();

  const params = useParams(PARAMS);

  function choose(what: string): void {
    const first = desk.hand.steps.first?.legs ?? [];
    params.before = what === 'now' ? [...desk.hand.legs] : what === 'first' ? [...first] : [];
  }
</script>

<select
  class="choice max-w-[76px]"
  aria-label="Beside"
  title="another structure that stands beside, with its curves and its facts"
  value=""
  onchange={(event) => {
    choose(event.currentTarget.value);
    event.currentTarget.value = '';
  }}
>
  <option value="">{params.before.length > 0 ? 'beside: on' : 'beside …'}</option>
  <option value="now">this, as it is now</option>
  <option value="first">as it came</option>
  <option value="none" disabled={params.before.length === 0}>nothing</option>
</select>
