const lib = 'web/src/lib';

/**
 * Which way imports may point, types too:
 * core ← api ← data ← ui, charts ← structure ← views ← app; the server takes core and api.
 *
 * @type {import('dependency-cruiser').IConfiguration}
 */
export default {
  forbidden: [
    {
      name: 'no-circle',
      comment: 'What imports in a circle is one module in several files: neither can be read or moved alone.',
      severity: 'error',
      from: {},
      to: { circular: true },
    },
    {
      name: 'no-circle-of-folders',
      severity: 'error',
      scope: 'folder',
      from: {},
      to: { circular: true },
    },
    {
      name: 'core-stands-alone',
      severity: 'error',
      from: { path: '^core/src' },
      to: { path: '^(demo|web)/' },
    },
    {
      name: 'api-takes-the-core-alone',
      comment: 'Schemas and definitions are loaded by the page and the server both.',
      severity: 'error',
      from: { path: `^${lib}/api/` },
      to: { path: '^(demo|web)/', pathNot: `^${lib}/(api/|layouts\\.ts)` },
    },
    {
      name: 'server-takes-nothing-of-the-page',
      comment: 'Beside the core and the API: the layouts of files, and what screens may ask.',
      severity: 'error',
      from: { path: `^${lib}/server/` },
      to: { path: `^${lib}/`, pathNot: `^${lib}/(server|api|columns|layouts\\.ts)` },
    },
    {
      name: 'page-takes-nothing-of-the-server',
      severity: 'error',
      from: { path: `^(${lib}|web/src/routes/\\(app\\))/`, pathNot: `^${lib}/server/` },
      to: { path: `^${lib}/server/` },
    },
    {
      name: 'no-view-takes-another',
      comment: 'What two views share moves down.',
      severity: 'error',
      from: { path: `^${lib}/views/([^/]+)/` },
      to: { path: `^${lib}/views/`, pathNot: `^${lib}/views/$1/` },
    },
    {
      name: 'nothing-below-takes-a-view',
      severity: 'error',
      from: { path: `^${lib}/`, pathNot: `^${lib}/(views|app)/` },
      to: { path: `^${lib}/(views|app)/` },
    },
    {
      name: 'views-take-nothing-of-the-frame',
      severity: 'error',
      from: { path: `^${lib}/views/` },
      to: { path: `^${lib}/app/` },
    },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '(^|/)(build|build-threads|\\.svelte-kit|testing)/|\\.test\\.ts$' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.json' },
    enhancedResolveOptions: { exportsFields: ['exports'], conditionNames: ['import', 'default'] },
  },
};
