import js from '@eslint/js';
import svelte from 'eslint-plugin-svelte';
import globals from 'globals';
import ts from 'typescript-eslint';

/** What has runes or markup; all else is checked by oxlint, which does not know them. */
export default ts.config(js.configs.recommended, ...ts.configs.strict, ...svelte.configs.recommended, {
  languageOptions: {
    globals: { ...globals.browser },
    parserOptions: { parser: ts.parser, extraFileExtensions: ['.svelte'] },
  },
  rules: {
    // Loops over typed arrays read in bounds; the compiler's noUncheckedIndexedAccess wants it said.
    '@typescript-eslint/no-non-null-assertion': 'off',
    '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
    // Published coefficients stand with all their digits.
    'no-loss-of-precision': 'off',
    // TypeScript knows the globals.
    'no-undef': 'off',
    // Links carry the whole context as their query, which the helper of the framework does not know.
    'svelte/no-navigation-without-resolve': 'off',
  },
});
