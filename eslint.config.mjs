import hooks from 'eslint-plugin-react-hooks';
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import tseslint from 'typescript-eslint';

// What a registered thing can do is declared where it is defined: nothing else asks for its kind by name.
const kinds = ['src/core/effects', 'src/core/depth', 'src/formats']
  .flatMap((folder) => readdirSync(folder, { recursive: true }).map((file) => join(folder, String(file))))
  .filter((file) => file.endsWith('.ts') && !file.endsWith('.test.ts'))
  .map((file) => readFileSync(file, 'utf8'))
  .filter((text) => /define(Effect|Layer|CleanUp|Cleanup|Check|Format|Output)\(/.test(text))
  .flatMap((text) => [...text.matchAll(/^ {2}kind: '([\w-]+)'/gm)].map(([, kind]) => kind));
const byName = {
  selector: `BinaryExpression[left.property.name="kind"][right.value=/^(${kinds.join('|')})$/]`,
  message: 'Declare in the definition what this asks for.',
};
// what a document holds has endless numbers in it, which JSON loses, and may be a draft, which cannot be cloned
const byJson = {
  selector:
    'CallExpression[callee.object.name="JSON"][callee.property.name="parse"] > CallExpression[callee.object.name="JSON"][callee.property.name="stringify"]',
  message: 'Copy by copyOf (core/values/copy); write by writeJson (core/values/endless).',
};
const byClone = { selector: 'CallExpression[callee.name="structuredClone"]', message: 'Copy by copyOf (core/values/copy).' };
const unnamed = { selector: 'ExportDefaultDeclaration', message: 'Name what is exported.' };

export default tseslint.config(
  {
    ignores: [
      'node_modules',
      '.next',
      'out',
      'built',
      'src/core/kernels/assembly',
      'src/core/kernels/build',
      'src/formats/page/build',
      'next-env.d.ts',
      'public',
      'test-results',
      'playwright-report',
      'types',
    ],
  },
  ...tseslint.configs.recommended,
  {
    files: ['**/*.{ts,tsx}'],
    languageOptions: { parserOptions: { projectService: true, tsconfigRootDir: import.meta.dirname } },
    rules: {
      '@typescript-eslint/no-floating-promises': 'error',
      '@typescript-eslint/no-unnecessary-type-assertion': 'error',
      '@typescript-eslint/no-explicit-any': 'error',
      '@typescript-eslint/no-non-null-assertion': 'off',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      'no-restricted-syntax': ['error', unnamed, byName, byJson, byClone],
    },
  },
  {
    files: ['src/{app,studio,shelf}/**/*.{ts,tsx}'],
    plugins: { 'react-hooks': hooks },
    rules: { 'react-hooks/rules-of-hooks': 'error', 'react-hooks/exhaustive-deps': 'error' },
  },
  // old documents and tests name the kinds they are about
  { files: ['src/core/document/migrate.ts', '**/*.test.{ts,tsx}'], rules: { 'no-restricted-syntax': ['error', unnamed, byJson] } },
  { files: ['src/app/**', '*.config.{ts,mjs}'], rules: { 'no-restricted-syntax': 'off' } },
);
