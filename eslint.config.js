import js from '@eslint/js'
import svelte from 'eslint-plugin-svelte'
import globals from 'globals'
import ts from 'typescript-eslint'
import svelteConfig from './svelte.config.js'

export default ts.config(
  {
    ignores: ['build/', 'programs/', '.svelte-kit/', 'node_modules/', 'data/', 'coverage/', 'test-results/'],
  },
  js.configs.recommended,
  ...ts.configs.strict,
  ...svelte.configs.recommended,
  {
    languageOptions: { globals: { ...globals.browser, ...globals.node } },
    rules: {
      'no-undef': 'off',
      // TypeScript sees that a redirect never returns; this rule does not.
      'no-fallthrough': 'off',
      // The application is served at the root of its address.
      'svelte/no-navigation-without-resolve': 'off',
      // It does not know the warnings of the newer compiler; svelte-check reports both kinds.
      'svelte/no-unused-svelte-ignore': 'off',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      // Positions that a loop has just checked read better with an assertion than with a second test.
      '@typescript-eslint/no-non-null-assertion': 'off',
    },
  },
  {
    // A function holds one idea.
    files: ['{core,protocols,db,standins,collector,web}/**/*.ts'],
    ignores: ['**/*.test.ts', '**/*.spec.ts', '**/testing/**', 'db/migrations/**'],
    rules: { 'max-lines-per-function': ['error', { max: 80 }] },
  },
  {
    // All SQL is in db/.
    files: ['{core,protocols,standins,collector,web}/**/*.{ts,svelte}'],
    ignores: ['**/*.test.ts', '**/testing/**', '**/e2e/**'],
    rules: {
      'no-restricted-syntax': [
        'error',
        {
          selector:
            'CallExpression > MemberExpression[property.name=/^(selectFrom|insertInto|updateTable|deleteFrom|mergeInto)$/]',
          message: 'SQL stands in db/ and nowhere else: make a function of it there.',
        },
        {
          selector: "TaggedTemplateExpression[tag.name='sql']",
          message: 'SQL stands in db/ and nowhere else: make a function of it there.',
        },
      ],
    },
  },
  {
    files: ['**/*.svelte', '**/*.svelte.ts'],
    languageOptions: {
      parserOptions: { parser: ts.parser, extraFileExtensions: ['.svelte'], svelteConfig },
    },
  },
)
