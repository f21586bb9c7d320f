<script lang="ts">
  import { page } from '$app/state';

  const message = $derived(
    page.status === 404 ? 'There is no such page.' : (page.error?.message ?? 'Something went wrong.'),
  );
</script>

<main class="flex h-screen p-2">
  <section class="panel flex-1 items-center justify-center gap-3">
    <p class="m-0 text-[17px] font-bold">{message}</p>
    <a class="btn btn-sm" href="/universe">To the Universe</a>
  </section>
</main>
