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
    // Scripts of ours alone; the one that begins a page has a nonce. Styles of elements are written by charts and formulas.
    csp: {
      mode: 'nonce',
      directives: {
        'default-src': ['none'],
        'script-src': ['self'],
        'style-src': ['self', 'unsafe-inline'],
        'img-src': ['self', 'data:', 'blob:'],
        'font-src': ['self', 'data:'],
        'connect-src': ['self'],
        'worker-src': ['self', 'blob:'],
        'manifest-src': ['self'],
        'base-uri': ['none'],
        'form-action': ['self'],
        'frame-ancestors': ['none'],
        'object-src': ['none'],
      },
    },
  },
};
