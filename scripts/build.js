/** Builds the packages, in order, or those that are named: `node scripts/build.js [NAME …]`. */
import { spawnSync } from 'node:child_process';
import { build, parseAst } from 'vite';
import { entriesOf, folderOf, packages } from './packages.js';

/** What a bot of any size loads, in one file: each file costs a start as much as reading what is in it. */
const CORE =
  /\/src\/(base|contract|limits|memory|commands|access|reading|replies|delivery|catalogue|observe|guilds|asking|pipeline|layer|queries|registration)\//;

/** The kinds of arguments come first: what is alike stands together, and a bot packs smaller. */
const FIRST = ['arg'];

/** Files that are loaded by name, besides those of the entries. */
const loaded = { taxeon: ['modules/hooks'], command: ['main', 'typescript-hooks'] };

/**
 * Marks what makes a constant of a module as something without effects, which `sideEffects: false` promises of all
 * modules: so a bundler drops what a bot does not use from inside a file, too.
 */
function annotateConstants() {
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
function editsOf({ id, init }) {
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
function hasComputedNames(node) {
  return node.type === 'PropertyDefinition' && node.computed;
}

/** What runs while an expression is evaluated: what stands inside its functions does not. */
function partsThatDo(node) {
  if (typeof node !== 'object' || node === null) return [];
  if (node.type === 'FunctionExpression' || node.type === 'ArrowFunctionExpression') return [];
  // What a field begins with is made with each object, and not with the class.
  if (node.type === 'PropertyDefinition' && !node.static) return node.computed ? [node] : [];
  const does = ['CallExpression', 'NewExpression', 'SpreadElement'].includes(node.type) || hasComputedNames(node);
  const own = does ? [node] : [];
  return [...own, ...Object.values(node).flatMap(partsThatDo)];
}

/** Everything that is not a file of the package stays an import. */
function isAnother(id) {
  return !id.startsWith('.') && !id.startsWith('/') && !id.startsWith('\0');
}

function filesOf(name) {
  const files = entriesOf(name).map(({ built }) => built.replace('./dist/', '').replace('.js', ''));
  return [...new Set([...FIRST.filter((file) => files.includes(file)), ...files, ...(loaded[name] ?? [])])];
}

for (const name of process.argv.length > 2 ? process.argv.slice(2) : packages) {
  const root = folderOf(name);
  process.chdir(root);
  await build({
    root,
    configFile: false,
    logLevel: 'warn',
    plugins: [annotateConstants()],
    build: {
      target: 'es2023',
      minify: false,
      outDir: 'dist',
      emptyOutDir: true,
      // As it stands: nothing becomes a data URL, no variable of the environment a constant.
      ssr: true,
      rolldownOptions: {
        input: Object.fromEntries(filesOf(name).map((file) => [file, `${root}src/${file}.ts`])),
        // So does `arg` where it is exported as one object: a bundler takes only the used kinds out of a module, and all
        // of them out of an object.
        external: (id, importer) => (importer === `${root}src/index.ts` && id === './arg.js') || isAnother(id),
        output: {
          chunkFileNames: 'shared/[name].js',
          topLevelVar: false,
          codeSplitting: { groups: [{ name: 'core', test: CORE }] },
        },
      },
    },
  });
  // A command is run, and not imported.
  if (name === 'command') continue;
  const { status } = spawnSync('npx', ['tsc', '-p', '.', '--emitDeclarationOnly'], { stdio: 'inherit' });
  if (status !== 0) process.exit(status ?? 1);
}
