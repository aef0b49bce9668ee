// The rooms of the house, highest first. A room may import itself and the rooms below it.
const rooms = ['web', 'collector', 'standins', 'db', 'protocols', 'core']

/** @type {import('dependency-cruiser').IConfiguration} */
module.exports = {
  forbidden: [
    {
      name: 'core-imports-only-core',
      comment: 'The core has no I/O, no clock, no framework: it imports nothing but itself.',
      severity: 'error',
      from: { path: '^core/', pathNot: '\\.test\\.ts$' },
      to: { pathNot: '^core/' },
    },
    ...rooms.slice(1).map((room, index) => ({
      name: `${room}-imports-no-higher-room`,
      severity: 'error',
      from: { path: `^${room}/` },
      to: { path: `^(${rooms.slice(0, index + 1).join('|')})/` },
    })),
    {
      name: 'collector-and-web-meet-only-in-the-database',
      severity: 'error',
      from: { path: '^web/', pathNot: '\\.test\\.ts$' },
      to: { path: '^(collector|standins)/' },
    },
    {
      name: 'components-do-not-reach-the-database',
      severity: 'error',
      from: { path: '^web/components/' },
      to: { path: '^(db|protocols)/', dependencyTypesNot: ['type-only'] },
    },
    {
      name: 'db-knows-no-protocol',
      comment: 'What a protocol ships is handed in.',
      severity: 'error',
      from: { path: '^db/', pathNot: '(^db/testing/|\\.test\\.ts$)' },
      to: { path: '^protocols/' },
    },
    {
      name: 'no-circles',
      severity: 'error',
      from: {},
      to: { circular: true },
    },
    {
      name: 'everything-resolves',
      severity: 'error',
      from: {},
      to: { couldNotResolve: true, pathNot: '^(\\$|\\./\\$types)' },
    },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.boundaries.json' },
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['import', 'node', 'default', 'types'],
    },
  },
}
