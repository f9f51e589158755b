import hooks from 'eslint-plugin-react-hooks';
import tseslint from 'typescript-eslint';

export default tseslint.config(
  {
    ignores: [
      'node_modules',
      '.next',
      'out',
      'src/core/kernels/assembly',
      'src/core/kernels/build',
      'next-env.d.ts',
      'public',
      'test-results',
      'playwright-report',
    ],
  },
  ...tseslint.configs.recommended,
  {
    files: ['**/*.{ts,tsx}'],
    rules: {
      '@typescript-eslint/no-explicit-any': 'error',
      '@typescript-eslint/no-non-null-assertion': 'off',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      'no-restricted-syntax': ['error', { selector: 'ExportDefaultDeclaration', message: 'Name what is exported.' }],
    },
  },
  {
    files: ['src/{app,studio,shelf}/**/*.{ts,tsx}'],
    plugins: { 'react-hooks': hooks },
    rules: { 'react-hooks/rules-of-hooks': 'error', 'react-hooks/exhaustive-deps': 'error' },
  },
  { files: ['src/app/**', '*.config.{ts,mjs}'], rules: { 'no-restricted-syntax': 'off' } },
);
