import js from '@eslint/js';
import svelte from 'eslint-plugin-svelte';
import globals from 'globals';
import ts from 'typescript-eslint';

export default ts.config(
  {
    ignores: [
      '**/build/',
      '**/build-threads/',
      '**/.svelte-kit/',
      '.umwelt/',
      'node_modules/',
      'test-results/',
      'playwright-report/',
    ],
  },
  js.configs.recommended,
  ...ts.configs.strict,
  ...svelte.configs.recommended,
  {
    languageOptions: { globals: { ...globals.node } },
    rules: {
      // Loops over typed arrays read in bounds; the compiler's noUncheckedIndexedAccess wants it said.
      '@typescript-eslint/no-non-null-assertion': 'off',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      // Published coefficients stand with all their digits.
      'no-loss-of-precision': 'off',
      // TypeScript knows the globals.
      'no-undef': 'off',
    },
  },
  {
    files: ['**/*.svelte', '**/*.svelte.ts'],
    languageOptions: {
      globals: { ...globals.browser },
      parserOptions: { parser: ts.parser, extraFileExtensions: ['.svelte'] },
    },
    rules: {
      // Links carry the whole context as their query, which the helper of the framework does not know.
      'svelte/no-navigation-without-resolve': 'off',
    },
  },
  {
    files: ['core/src/**/*.ts'],
    ignores: ['**/*.test.ts'],
    rules: {
      'no-restricted-globals': ['error', 'window', 'document', 'process', 'fetch', 'console'],
      'no-restricted-imports': ['error', { patterns: ['node:*', '@umwelt/*', 'svelte*', 'drizzle*'] }],
    },
  },
);
