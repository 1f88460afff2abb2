/** The walls between rooms: no circle between folders of the server, none between files anywhere but for types. */
export default {
  forbidden: [
    {
      name: 'no-circle-of-files',
      severity: 'error',
      from: {},
      to: { circular: true, viaOnly: { dependencyTypesNot: ['type-only'] } },
    },
    {
      name: 'no-circle-of-rooms',
      comment: 'Types count too: a room is understood without the rooms that build on it.',
      severity: 'error',
      scope: 'folder',
      from: { path: '^packages/server/src/' },
      to: { circular: true },
    },
    {
      name: 'no-room-without-an-idea',
      severity: 'error',
      from: { path: '(^|/)(misc|helpers?|utils?)/' },
      to: {},
    },
    {
      name: 'nothing-without-use',
      severity: 'error',
      from: { orphan: true, pathNot: '\\.d\\.m?ts$' },
      to: {},
    },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '/(dist|test-results)/' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.json' },
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['import', 'types'],
      extensions: ['.ts', '.mjs', '.js', '.vue'],
    },
  },
}
