<script lang="ts">
  import { useParams } from '$lib/state';
  import { AXIS_NAMES, AXIS_TITLES } from './axes';
  import { AXES, PARAMS } from './params';

  const params = useParams(PARAMS);
</script>

<div class="toggle-group" role="group" aria-label="Axis">
  {#each AXES as axis (axis)}
    <button aria-pressed={params.axis === axis} title={AXIS_TITLES[axis]} onclick={() => (params.axis = axis)}
      >{AXIS_NAMES[axis]}</button
    >
  {/each}
</div>
