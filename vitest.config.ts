import { fileURLToPath } from 'node:url';
import { defineConfig } from 'vitest/config';

export default defineConfig({
  resolve: { alias: { $lib: fileURLToPath(new URL('./web/src/lib', import.meta.url)) } },
  test: {
    include: [
      'core/src/**/*.test.ts',
      'demo/src/**/*.test.ts',
      'web/src/**/*.test.ts',
      'tests/api/**/*.test.ts',
      'scripts/**/*.test.ts',
    ],
    testTimeout: 60_000,
    hookTimeout: 120_000,
  },
});
