<script lang="ts">
  import { useParams } from '$lib/state';
  import { AXIS_NAMES, AXIS_TITLES } from './axes';
  import { AXES, PARAMS } from './params';
  import { Toggles } from '$lib/ui';

  const params = useParams(PARAMS);
</script>

<Toggles
  label="Axis"
  options={AXES}
  words={(axis) => AXIS_NAMES[axis]}
  titles={(axis) => AXIS_TITLES[axis]}
  bind:value={params.axis}
/>
