<script lang="ts">
  import { useParams } from '$lib/state';
  import { HISTORY_VIEWS, PARAMS } from './params';

  /** The names of the pictures: the one in view is the title. */
  const params = useParams(PARAMS);
  const NAMES = { path: 'History', cone: 'Cone', premium: 'Premium', announcements: 'Announcements' } as const;
</script>

<nav class="flex items-baseline gap-2" aria-label="Pictures of the past">
  {#each HISTORY_VIEWS as view (view)}
    {#if params.picture === view}
      <h2 class="text-[15px] font-bold" aria-current="page">{NAMES[view]}</h2>
    {:else}
      <button
        class="cursor-pointer text-[13px] text-soft underline-offset-4 hover:text-ink hover:underline"
        onclick={() => (params.picture = view)}>{NAMES[view]}</button
      >
    {/if}
  {/each}
</nav>
