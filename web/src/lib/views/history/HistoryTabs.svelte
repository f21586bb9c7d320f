<script lang="ts">
  import { useParams } from '$lib/state';
  import { HISTORY_VIEWS, PARAMS } from './params';
  import { TitleTabs } from '$lib/ui';

  /** The names of the pictures: the one in view is the title. */
  const params = useParams(PARAMS);
  const NAMES = { path: 'History', cone: 'Cone', premium: 'Premium', announcements: 'Announcements' } as const;
</script>

<TitleTabs label="Pictures of the past" options={HISTORY_VIEWS} names={NAMES} bind:value={params.picture} />
