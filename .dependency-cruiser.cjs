const only = (name, from, to, comment) => ({
  name,
  severity: 'error',
  comment,
  from: { path: from, pathNot: '\\.test\\.tsx?$' },
  to: { path: to },
});
const CORE = '^packages/core/src';

/** The arrows of docs/architecture.md. Each layer of the core may import those before it, never those after. */
const LAYERS = [
  'shared',
  'values',
  'local',
  'model',
  'expressions',
  'decisions',
  'forms',
  'templates',
  'flow',
  'structure',
  'edits',
  'analysis',
  'rehearsal',
];
const layers = LAYERS.slice(0, -1).map((layer, index) =>
  only(
    `core-${layer}`,
    `${CORE}/${layer}/`,
    `${CORE}/(${LAYERS.slice(index + 1).join('|')})/`,
    'shared <- values <- local <- model <- expressions <- decisions <- forms <- templates <- flow <- structure <- edits <- analysis <- rehearsal',
  ),
);

module.exports = {
  forbidden: [
    {
      name: 'no-circles',
      severity: 'error',
      from: { pathNot: '^packages/core/src/expressions/(builtins/registry|parse)' },
      to: { circular: true },
    },
    ...layers,
    only(
      'messages-at-the-edge',
      `${CORE}/(${LAYERS.join('|')})/`,
      `${CORE}/messages/`,
      'Nothing in the core holds or imports a sentence.',
    ),
    only(
      'core-is-pure',
      '^packages/core/',
      '^(apps|packages/(contract|conform|formats|testkit)|e2e|bench)/',
      'The core knows nobody.',
    ),
    {
      name: 'core-without-node',
      severity: 'error',
      from: { path: `${CORE}`, pathNot: '\\.test\\.ts$' },
      to: { dependencyTypes: ['core'] },
    },
    only(
      'conform',
      '^packages/conform/',
      '^(apps|packages/(contract|testkit)|e2e|bench)/',
      'The conformance runner knows the core only.',
    ),
    only('contract', '^packages/contract/', '^(apps|e2e|bench)/', 'The contract knows the core only.'),
    only('web-not-server', '^apps/web/', '^apps/server/', 'The web reaches the server through the contract only.'),
    only('server-not-web', '^apps/server/', '^apps/web/', 'The server knows nothing of the web.'),
    {
      name: 'web-fetches-in-one-place',
      severity: 'error',
      comment: 'Only queries.ts, the draft store, the keeper of unfinished forms and the publish dialog call the API.',
      from: {
        path: '^apps/web/src/',
        pathNot:
          'queries\\.ts$|forms/send-file\\.ts$|draft-store\\.ts$|unfinished/keeper\\.ts$|PublishDialog\\.tsx$|shared/|query-client\\.ts$|pages/',
      },
      to: { path: '^apps/web/src/shared/api\\.ts$' },
    },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '(^|/)(dist|node_modules|migrations)/' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.json' },
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['import', 'default'],
      extensions: ['.ts', '.tsx', '.js'],
    },
  },
};
