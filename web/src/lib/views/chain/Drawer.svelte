<script lang="ts">
  import { useParams } from '$lib/state';
  import { KeptPanel } from '$lib/kept';
  import { DRAWER_NAMES, PARAMS } from './params';
  import TargetPanel from './TargetPanel.svelte';
  import ThetaPanel from './ThetaPanel.svelte';

  const params = useParams(PARAMS);
</script>

<section class="panel flex-1" aria-label={DRAWER_NAMES[params.drawer]}>
  {#if params.drawer === 'target'}<TargetPanel />
  {:else if params.drawer === 'theta'}<ThetaPanel />
  {:else}<KeptPanel />{/if}
</section>
