export default {
  testEnvironment: 'node',
  roots: ['<rootDir>/src', '<rootDir>/headless', '<rootDir>/demo', '<rootDir>/bench'],
  testMatch: ['**/*.test.ts', '**/*.test.tsx'],
  transform: {
    '^.+\\.tsx?$': [
      '<rootDir>/scripts/jestTransform.mjs',
      {
        jsc: { target: 'es2022', parser: { syntax: 'typescript', tsx: true }, transform: { react: { runtime: 'automatic' } } },
        module: { type: 'es6' },
      },
    ],
  },
  extensionsToTreatAsEsm: ['.ts', '.tsx'],
  moduleNameMapper: { '^@/(.*)$': '<rootDir>/src/$1' },
  setupFiles: ['<rootDir>/headless/kernels.ts'],
  testTimeout: 60000,
  maxWorkers: 2,
};
