<script lang="ts">
  import { AXES, useWorkbench } from '$lib/state';
  import { AXIS_NAMES, AXIS_TITLES } from './axes';

  const bench = useWorkbench();
</script>

<div class="toggle-group" role="group" aria-label="Axis">
  {#each AXES as axis (axis)}
    <button
      aria-pressed={bench.context.axis === axis}
      title={AXIS_TITLES[axis]}
      onclick={() => (bench.context.axis = axis)}>{AXIS_NAMES[axis]}</button
    >
  {/each}
</div>
