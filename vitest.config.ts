import { fileURLToPath } from 'node:url';
import { compileModule } from 'svelte/compiler';
import { defineConfig, type Plugin } from 'vitest/config';

const alias = { $lib: fileURLToPath(new URL('./web/src/lib', import.meta.url)) };
const RUNES = 'web/src/**/*.svelte.test.ts';
/** Far over what anything takes: a machine that is shared may be five times slower than one that is not. */
const timeouts = { testTimeout: 300_000, hookTimeout: 300_000, expect: { poll: { timeout: 120_000 } } };

/** Compiles runes as they are for a browser: what the page's plugin compiles for Node never changes. */
const runes: Plugin = {
  name: 'runes',
  enforce: 'post',
  transform: (code, id) =>
    /\.svelte(\.test)?\.ts$/.test(id) ? compileModule(code, { filename: id, generate: 'client' }).js : undefined,
};

export default defineConfig({
  test: {
    projects: [
      {
        resolve: { alias },
        test: {
          name: 'plain',
          include: [
            'core/src/**/*.test.ts',
            'demo/src/**/*.test.ts',
            'web/src/**/*.test.ts',
            'tests/api/**/*.test.ts',
            'scripts/**/*.test.ts',
          ],
          exclude: [RUNES],
          ...timeouts,
        },
      },
      {
        // Stores of the page: runes have to be compiled, and run as they do in a browser.
        plugins: [runes],
        resolve: { alias },
        ssr: { resolve: { conditions: ['browser', 'module', 'import', 'default'] } },
        test: { name: 'runes', include: [RUNES], server: { deps: { inline: ['svelte', 'esm-env'] } }, ...timeouts },
      },
    ],
  },
});
