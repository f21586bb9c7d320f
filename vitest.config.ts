import { defineConfig } from 'vitest/config';

export default defineConfig({
  test: {
    include: [
      'core/src/**/*.test.ts',
      'demo/src/**/*.test.ts',
      'web/src/**/*.test.ts',
      'tests/api/**/*.test.ts',
      'scripts/**/*.test.ts',
    ],
    testTimeout: 20_000,
  },
});
