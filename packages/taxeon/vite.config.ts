import { defineConfig, type ESTree, type Plugin, parseAst } from 'vite';

/**
 * One file per entry point, and shared ones: a command-line start reads few files. What platforms and the kinds of arguments
 * have comes first, so that what is alike stands together, and a bot packs smaller.
 */
const entries = [
  'platform',
  'arg',
  'index',
  'asking',
  'queries/index',
  'platforms/stand-in/index',
  'platforms/irc/index',
  'platforms/http/index',
  'platforms/console/index',
  'stores/file',
  'stores/redis/redis',
  'telemetry/telemetry',
  'icu/index',
  'modules/index',
  'modules/hooks',
  'testing/index',
  'testing/trials',
  'testing/tryouts',
  'registration/index',
];

/**
 * Marks what makes a constant of a module as something without effects, which `sideEffects: false` promises of all
 * modules: so a bundler drops what a bot does not use from inside a file, too.
 */
function annotateConstants(): Plugin {
  return {
    name: 'annotate-constants',
    renderChunk(code) {
      const edits = parseAst(code).body.flatMap((statement) =>
        statement.type === 'VariableDeclaration' ? statement.declarations.flatMap(editsOf) : [],
      );
      const cuts = [{ at: 0, text: '' }, ...edits];
      return { code: cuts.map(({ at, text }, n) => text + code.slice(at, cuts[n + 1]?.at)).join(''), map: null };
    },
  };
}

const PURE = '/* @__PURE__ */ ';

/** What to write into an expression: in front of a call; around all else that bundlers believe may do something. */
function editsOf({ id, init }: ESTree.VariableDeclarator): { readonly at: number; readonly text: string }[] {
  const doing = partsThatDo(init);
  if (init === null || doing.length === 0) return [];
  const isCall = init.type === 'CallExpression' || init.type === 'NewExpression';
  if (doing.length === 1 && doing[0] === init && isCall) return [{ at: init.start, text: PURE }];
  // A class keeps the name that its constant gives it.
  if (init.type === 'ClassExpression' && id.type === 'Identifier') {
    return [
      { at: init.start, text: `${PURE}(() => { const ${id.name} = ` },
      { at: init.end, text: `; return ${id.name}; })()` },
    ];
  }
  return [
    { at: init.start, text: `${PURE}(() => (` },
    { at: init.end, text: '))()' },
  ];
}

/** A bundler cannot tell what computing the name of a class's field does. */
function hasComputedNames(node: ESTree.Node): boolean {
  return node.type === 'PropertyDefinition' && node.computed;
}

/** What runs while an expression is evaluated: what stands inside its functions does not. */
function partsThatDo(expression: unknown): ESTree.Node[] {
  if (typeof expression !== 'object' || expression === null) return [];
  const node = expression as ESTree.Node;
  if (node.type === 'FunctionExpression' || node.type === 'ArrowFunctionExpression') return [];
  // What a field begins with is made with each object, and not with the class.
  if (node.type === 'PropertyDefinition' && !node.static) return node.computed ? [node] : [];
  const does = ['CallExpression', 'NewExpression', 'SpreadElement'].includes(node.type) || hasComputedNames(node);
  const own = does ? [node] : [];
  return [...own, ...Object.values(node).flatMap(partsThatDo)];
}

/** What a bot of any size loads, in one file: each file costs a start as much as reading what is in it. */
const CORE =
  /\/src\/(base|contract|limits|memory|commands|access|reading|replies|delivery|catalogue|observe|guilds|asking|pipeline|layer|queries|registration)\//;

export default defineConfig({
  plugins: [annotateConstants()],
  build: {
    target: 'es2023',
    minify: false,
    outDir: 'dist',
    emptyOutDir: true,
    lib: { entry: Object.fromEntries(entries.map((entry) => [entry, `src/${entry}.ts`])), formats: ['es'] },
    rolldownOptions: {
      // Everything that is not a file of this package stays an import. So does `arg` where it is exported as one
      // object: a bundler takes only the used kinds out of a module, and all of them out of an object.
      external: (id, importer) =>
        importer?.endsWith('/src/index.ts')
          ? id === './arg.js'
          : !id.startsWith('.') && !id.startsWith('/') && !id.startsWith('\0'),
      output: {
        chunkFileNames: 'shared/[name].js',
        topLevelVar: false,
        codeSplitting: { groups: [{ name: 'core', test: CORE }] },
      },
    },
  },
});
