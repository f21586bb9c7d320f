<script lang="ts">
  import { useParams } from '$lib/state';
  import { PARAMS, SURFACE_VIEWS } from './params';
  import { TitleTabs } from '$lib/ui';

  /** The names of the main panel's pictures: the one in view is its title. */
  const params = useParams(PARAMS);
  const NAMES = { skew: 'Skew', map: 'Map', pairs: 'Pairs', measures: 'Measures' } as const;
</script>

<TitleTabs label="Main panel" options={SURFACE_VIEWS} names={NAMES} bind:value={params.main} />
