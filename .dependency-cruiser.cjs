// The layers of docs/architecture.md: each may import only from those before it.
const only = (name, from, to) => ({
  name,
  severity: 'error',
  from: { path: from, pathNot: '\\.test\\.ts$' },
  to: { pathNot: to },
});
module.exports = {
  forbidden: [
    only('core-is-pure', '^src/core', ['^src/core', 'node_modules/(bezier-easing|base64-js|typebox|papaparse)']),
    // The stages of the core, in the order of the data: each knows only those before it.
    only('base-first', '^src/core/base', ['^src/core/base', 'node_modules/']),
    only('document-on-base', '^src/core/document', ['^src/core/(base|document)', 'node_modules/']),
    only('formats-on-document', '^src/core/formats', ['^src/core/(base|document|formats)', 'node_modules/']),
    only('finding-on-document', '^src/core/finding', ['^src/core/(base|document|finding)', 'node_modules/']),
    only('motion-on-base', '^src/core/motion', ['^src/core/(base|motion)', 'node_modules/']),
    only('timeline-on-document', '^src/core/timeline', ['^src/core/(base|document|timeline)', 'node_modules/']),
    only('sound-on-accents', '^src/core/sound', ['^src/core/(base|document|timeline|accents|sound)', 'node_modules/']),
    only('subject-on-accents', '^src/core/subject', [
      '^src/core/(base|document|accents/region|finding/focus|subject)',
      'node_modules/',
    ]),
    only('accents-on-timeline', '^src/core/accents', ['^src/core/(base|document|timeline|accents)', 'node_modules/']),
    // The schema library is for the build: what runs has the validators made of it.
    {
      name: 'schema-at-build',
      severity: 'error',
      from: { path: '^src', pathNot: 'schema\\.ts$|\\.test\\.ts$' },
      to: { path: 'document/schema\\.ts$', dependencyTypesNot: ['type-only'] },
    },
    only('effects-see-core', '^src/effects', ['^src/(core|effects)']),
    only('engine-below-app', '^src/engine', [
      '^src/(core|effects|engine)',
      'node_modules/(mediabunny|@mediabunny|@mediapipe|comlink|dexie|base64-js|signalsmith-stretch|@fontsource-variable)',
    ]),
    only('app-on-engine', '^src/app', ['^src/(core|effects|engine|app)', 'node_modules']),
    // The app knows the engine by its index alone.
    {
      name: 'engine-by-its-index',
      severity: 'error',
      from: { path: '^src/app', pathNot: '\\.test\\.ts$' },
      to: { path: '^src/engine/', pathNot: '^src/engine/(index|headless)\\.ts$' },
    },
    only('server-stands-alone', '^src/server', [
      '^src/server',
      'node_modules',
      '^(node:|child_process|fs|path|http|url|crypto|os|util|net)',
    ]),
    only('cli-on-server', '^src/cli', [
      '^src/(cli|server|engine/headless|core/document/types)',
      'node_modules',
      '^(node:|child_process|fs|path|http|url|crypto|os|util|net|stream)',
    ]),
    {
      name: 'no-circles',
      severity: 'error',
      from: {},
      to: { circular: true, viaOnly: { dependencyTypesNot: ['type-only'] } },
    },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    tsPreCompilationDeps: true,
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['import', 'node', 'default'],
      mainFields: ['module', 'main', 'types'],
    },
  },
};
