// The layers of docs/architecture.md: each may import only from those before it.
const only = (name, from, to) => ({ name, severity: 'error', from: { path: from, pathNot: '\\.test\\.ts$' }, to: { pathNot: to } });
module.exports = {
  forbidden: [
    only('core-is-pure', '^src/core', ['^src/core', 'node_modules/(bezier-easing|base64-js)']),
    only('effects-see-core', '^src/effects', ['^src/(core|effects)']),
    only('engine-below-app', '^src/engine', ['^src/(core|effects|engine)', 'node_modules/(mediabunny|@mediabunny|comlink|dexie|base64-js)']),
    only('app-on-engine', '^src/app', ['^src/(core|effects|engine|app)', 'node_modules']),
    only('server-stands-alone', '^src/server', ['^src/server', 'node_modules', '^(node:|fs|path|http|url|crypto|os|util|net)']),
    only('cli-on-server', '^src/cli', ['^src/(cli|server|engine/headless|core/montage/types)', 'node_modules', '^(node:|fs|path|http|url|crypto|os|util|net)']),
    { name: 'no-circles', severity: 'error', from: {}, to: { circular: true, viaOnly: { dependencyTypesNot: ['type-only'] } } },
  ],
  options: { doNotFollow: { path: 'node_modules' }, tsPreCompilationDeps: true, enhancedResolveOptions: { exportsFields: ['exports'], conditionNames: ['import', 'node', 'default'], mainFields: ['module', 'main', 'types'] } },
};
