<script lang="ts">
  import { page } from '$app/state';
</script>

<section class="panel flex-1 items-center justify-center gap-3">
  <p class="m-0 text-[17px] font-bold">{page.error?.message ?? 'Something went wrong.'}</p>
  <a class="btn btn-sm" href="/universe">To the Universe</a>
</section>
