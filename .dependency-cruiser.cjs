// The borders of docs/architecture.md: an arrow never points up.
const layer = (name, from, forbidden, comment) => ({
  name,
  severity: 'error',
  comment,
  from: { path: from },
  to: { path: forbidden },
});

module.exports = {
  forbidden: [
    layer('core-is-pure', '^src/core/', '^src/(?!core/)', 'The core knows nothing but itself.'),
    {
      name: 'core-has-no-io',
      severity: 'error',
      comment: 'No I/O, database, interface or clock libraries in the core.',
      from: { path: '^src/core/' },
      to: {
        path: 'node_modules/(pg|@mikro-orm|graphile-worker|react|undici|nodemailer|astro)/|^(node:)?(fs|net|http|https|dns|child_process)$',
      },
    },
    layer(
      'db-below',
      '^src/db/',
      '^src/(gateways|sources|steps|engine|app|api|web|pages|islands|components|client|worker|server|practice|demo)/',
      'The database layer stands on the core alone.',
    ),
    layer(
      'tables-below',
      '^src/tables/',
      '^src/(?!core/|tables/|log\\.ts)',
      'Reading and writing tables stands on the core alone.',
    ),
    layer('gateways-below', '^src/gateways/', '^src/(?!core/|gateways/)', 'Gateways stand on the core alone.'),
    layer(
      'sources-and-steps-below',
      '^src/(sources|steps)/',
      '^src/(db/(?!db\\.ts|hot/row-keys\\.sql\\.ts)|engine/|app/|api/|web/|pages/|islands/|client/(?!within\\.ts)|worker/|server/|practice/|demo/)',
      'Kinds of sources and steps know nothing above them.',
    ),
    layer(
      'starters-below',
      '^src/starters/',
      '^src/(?!core/|starters/)',
      'Starters are files, made of the core alone.',
    ),
    layer(
      'reading-below',
      '^src/reading/',
      '^src/(db|engine|app|web|pages|islands|components|client|worker|server|practice|demo|runtime)',
      'What strangers send is read in a thread that knows no database and nobody above.',
    ),
    layer(
      'engine-below',
      '^src/engine/',
      '^src/(app|api|web|pages|islands|components|client|worker|server|practice|demo|runtime)',
      'The engine can be called from any process.',
    ),
    layer(
      'app-below',
      '^src/app/',
      '^src/(api|web|pages|islands|components|client|worker|server|practice|demo)/',
      'Use cases know nothing of pages.',
    ),
    layer(
      'api-below',
      '^src/api/',
      '^src/(pages|islands|components|client|worker|server|practice|demo)/',
      'The table of routes knows use cases, and nobody who calls them.',
    ),
    layer(
      'practice-apart',
      '^src/practice/',
      '^src/(?!practice/|static-files|stop-with-parent|watched|styles/|components/(fields\\.tsx|bound\\.ts)|core/.*)',
      'The practice desk talks to Pine Bell only over the network; it shares the look of labelled fields.',
    ),
    {
      name: 'practice-takes-types-only',
      severity: 'error',
      comment: 'Of the core the practice desk may use types only.',
      from: { path: '^src/practice/' },
      to: { path: '^src/core/', dependencyTypesNot: ['type-only'] },
    },
    layer(
      'client-below',
      '^src/client/',
      '^src/(?!client/|api/)',
      'What every screen is made with knows the table of routes, for its types, and no screen.',
    ),
    {
      name: 'interface-not-server',
      severity: 'error',
      comment: 'What runs in the browser never imports what runs on the server, but for types.',
      from: { path: '^src/(islands|components|client)/|^src/(steps|sources)/.*form\\.tsx$' },
      to: { path: '^src/(app|api|db|engine|gateways|web|runtime|server|worker)', dependencyTypesNot: ['type-only'] },
    },
    {
      name: 'no-circles',
      severity: 'error',
      comment: 'No circles, but for entities, which point at each other.',
      from: { pathNot: '^src/db/entities/' },
      to: { circular: true, dependencyTypesNot: ['type-only'] },
    },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.json' },
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['import', 'node', 'default'],
      extensions: ['.ts', '.tsx', '.mjs', '.js'],
    },
  },
};
