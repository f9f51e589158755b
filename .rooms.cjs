/** Between rooms inside the core and inside the studio arrows run one way too. Tests may look anywhere. */
module.exports = {
  forbidden: [
    { name: 'rooms-without-circles', scope: 'folder', severity: 'error', from: { path: '^src/(core|studio|engine)/' }, to: { circular: true } },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '\\.test\\.tsx?$|kernels/(assembly|build)|page/build|^src/testing/' },
    tsConfig: { fileName: 'tsconfig.json' },
    tsPreCompilationDeps: true,
  },
};
