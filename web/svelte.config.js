import adapter from '@sveltejs/adapter-node';
import { vitePreprocess } from '@sveltejs/vite-plugin-svelte';

/** @type {import('@sveltejs/kit').Config} */
export default {
  preprocess: vitePreprocess(),
  kit: {
    adapter: adapter({ out: 'build' }),
    // hooks.server.ts compares Origin and Host itself, so that scripts may post forms (multipart files) too.
    csrf: { trustedOrigins: ['*'] },
    version: { pollInterval: 0 },
  },
};
