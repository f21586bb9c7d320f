<script lang="ts">
  import { Toaster } from 'svelte-sonner';
</script>

<!-- Above the bottom line, in the colours of the theme. -->
<Toaster
  position="bottom-right"
  duration={2500}
  offset={{ bottom: 34, right: 16 }}
  toastOptions={{
    unstyled: true,
    class: 'font-sans rounded-md border border-line bg-ink px-3 py-1.5 text-[12px] text-panel shadow-md',
  }}
/>
