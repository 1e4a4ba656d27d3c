import next from 'eslint-config-next/core-web-vitals';
import tseslint from 'typescript-eslint';
import { maskInline } from './script/inlineMask.mjs';

const BUILT_IN_TRANSCENDENTALS = [
  'sin',
  'cos',
  'tan',
  'asin',
  'acos',
  'atan',
  'atan2',
  'sinh',
  'cosh',
  'tanh',
  'exp',
  'expm1',
  'log',
  'log2',
  'log10',
  'log1p',
  'pow',
  'cbrt',
];

export default tseslint.config(
  {
    ignores: [
      '.next/**',
      'dist/**',
      'public/audio/**',
      'data*/**',
      'next-env.d.ts',
      'test-results/**',
      'playwright-report/**',
      'src/core/wasm/embedded.generated.ts',
    ],
  },
  ...next,
  ...tseslint.configs.recommended,
  {
    files: ['**/*.{ts,tsx}'],
    rules: {
      '@typescript-eslint/no-explicit-any': 'error',
      '@typescript-eslint/no-non-null-assertion': 'off',
      // It warns of what the React compiler would leave alone, which is not used here.
      'react-hooks/incompatible-library': 'off',
      eqeqeq: 'error',
      'no-console': 'error',
    },
  },
  {
    files: ['src/core/**/*.ts'],
    ignores: ['src/core/**/*.test.ts'],
    rules: {
      'no-restricted-globals': [
        'error',
        'window',
        'document',
        'process',
        'performance',
        'setTimeout',
        'setInterval',
        'Date',
        'fetch',
        'Buffer',
      ],
      'no-restricted-properties': [
        'error',
        { object: 'Math', property: 'random', message: 'Use core/math/random with a seed.' },
      ],
    },
  },
  {
    files: ['src/core/math/**/*.ts', 'src/core/dsp/**/*.ts', 'src/core/effects/**/*.ts', 'src/core/engine/**/*.ts'],
    ignores: ['src/core/**/*.test.ts'],
    rules: {
      'no-restricted-syntax': [
        'error',
        { selector: "BinaryExpression[operator='**']", message: 'Differs between engines: use core/math/elementary.' },
      ],
      'no-restricted-properties': [
        'error',
        ...['random', ...BUILT_IN_TRANSCENDENTALS].map((property) => ({
          object: 'Math',
          property,
          message: 'Differs between engines or runs: use core/math/elementary or core/math/random.',
        })),
      ],
    },
  },
  {
    files: ['src/core/wasm/*.as.ts'],
    processor: {
      preprocess: (text) => [maskInline(text)],
      postprocess: (messages) => messages.flat(),
    },
    // Types are static there: `==` never converts.
    rules: { eqeqeq: 'off' },
  },
  { files: ['bench/**', 'script/**', 'demo/**', 'src/cli/**', 'src/server/log.ts'], rules: { 'no-console': 'off' } },
  { files: ['**/*.cjs'], rules: { '@typescript-eslint/no-require-imports': 'off' } },
);
