import js from '@eslint/js';
import ng from 'angular-eslint';
import { defineConfig } from 'eslint/config';
import ts from 'typescript-eslint';
import rawControls from './scripts/lint/raw-controls.js';

/** Rooms of the core, lowest first: a room imports only from rooms below it. */
const CORE = ['model', 'container', 'markup', 'formats', 'inspect', 'reshape', 'fit', 'compare', 'report', 'cli'];

/**
 * Rooms of the server, lowest first. What lies in a list together may import one another.
 */
const SERVER = [['contract'], ['db'], ['store', 'platforms'], ['jobs'], ['services'], ['handlers', 'api']];

const noImports = (files, patterns) => ({
  files,
  rules: { 'no-restricted-imports': ['error', { patterns }] },
});

const downwardOnly = CORE.map((room, at) =>
  noImports(
    [`core/src/${room}/**/*.ts`],
    [
      {
        group: [...CORE.slice(at + 1).map((higher) => `**/${higher}/**`), '**/src/index.ts'],
        message: 'Imports in the core go downward only.',
      },
      {
        group: ['@treenail/*', 'express', 'sequelize', '@angular/*'],
        message: 'The core has no interface, no database, no network.',
      },
    ],
  ),
);

const KNOWS_NEITHER = {
  group: ['@treenail/web*', '@treenail/standins*', '@angular/*'],
  message: 'The server knows neither the interface nor the stand-ins.',
};

/** Specs bring a whole server up, and so stand above all rooms. */
const serverDownwardOnly = SERVER.flatMap((level, at) =>
  level.map((room) => ({
    ...noImports(
      [`server/src/${room}/**/*.ts`],
      [
        KNOWS_NEITHER,
        {
          regex: `^(?:\\.\\./)+(?:${[...SERVER.slice(at + 1).flat(), ...(room === 'api' ? ['handlers'] : []), ...(room === 'handlers' ? ['api'] : []), 'testing'].join('|')})/`,
          message: 'Imports in the server go downward only.',
        },
      ],
    ),
    ignores: ['**/*.spec.ts'],
  })),
);

export default defineConfig(
  {
    ignores: [
      '**/dist/**',
      '**/.angular/**',
      '**/node_modules/**',
      '.data/**',
      '.test-data/**',
      '**/*.cjs',
      '**/*.mjs',
      'eslint.config.js',
      'scripts/lint/*.js',
    ],
  },
  {
    files: ['**/*.ts'],
    extends: [js.configs.recommended, ...ts.configs.recommendedTypeChecked],
    languageOptions: { parserOptions: { projectService: true, tsconfigRootDir: import.meta.dirname } },
    rules: {
      '@typescript-eslint/no-explicit-any': 'error',
      '@typescript-eslint/require-await': 'off',
      '@typescript-eslint/unbound-method': ['error', { ignoreStatic: true }],
      '@typescript-eslint/restrict-template-expressions': ['error', { allowNumber: true }],
    },
  },
  {
    // All but the web application is one program: what they share is checked once, and not for each of them.
    files: ['{core,server,standins,e2e,bench}/**/*.ts'],
    languageOptions: { parserOptions: { projectService: false, project: ['tsconfig.check.json'] } },
  },
  ...downwardOnly,
  noImports(['server/src/**/*.ts'], [KNOWS_NEITHER]),
  ...serverDownwardOnly,
  noImports(
    ['standins/src/**/*.ts'],
    [
      {
        group: ['@treenail/*'],
        message: 'The stand-ins import nothing of Treenail: a forecast must be able to be wrong.',
      },
    ],
  ),
  noImports(
    ['web/src/**/*.ts'],
    [
      {
        regex: '^@treenail/server(?!/contract$)',
        message: 'Of the server the web application knows the contract only.',
      },
      {
        group: ['@treenail/core/node', '@treenail/core/file-worker', '@treenail/core/workers'],
        message: 'Node is not in the browser.',
      },
    ],
  ),
  { files: ['web/**/*.ts'], extends: [...ng.configs.tsRecommended], processor: ng.processInlineTemplates },
  {
    files: ['web/**/*.html'],
    extends: [...ng.configs.templateRecommended, ...ng.configs.templateAccessibility],
    plugins: { house: { rules: { 'raw-controls': rawControls } } },
    rules: { 'house/raw-controls': 'error' },
  },
);
