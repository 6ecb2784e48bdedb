// Only what Biome cannot see: promises nobody waits for, and the rules of hooks.
import hooks from 'eslint-plugin-react-hooks';
import tseslint from 'typescript-eslint';

export default [
  { ignores: ['dist/', 'build/', 'node_modules/', 'data/', '**/*.mjs', '**/*.js', 'src/env.d.ts'] },
  {
    files: ['src/**/*.{ts,tsx}', 'tests/**/*.ts'],
    languageOptions: { parser: tseslint.parser, parserOptions: { projectService: true } },
    plugins: { '@typescript-eslint': tseslint.plugin, 'react-hooks': hooks },
    rules: {
      '@typescript-eslint/no-floating-promises': 'error',
      'react-hooks/rules-of-hooks': 'error',
      'react-hooks/exhaustive-deps': 'off',
    },
    linterOptions: { reportUnusedDisableDirectives: true },
  },
];
