import { existsSync, mkdirSync, readdirSync, readFileSync, renameSync, rmSync, statSync, writeFileSync } from 'node:fs'
import { basename, join } from 'node:path'
import { fileURLToPath, pathToFileURL } from 'node:url'

/**
 * Runs a script of this repository as one module: `node scripts/launch.mjs scripts/demo.ts`. Loading its hundreds of
 * modules one by one takes longer than putting them together, which is done anew when one of them has changed.
 */

const ROOT = fileURLToPath(new URL('..', import.meta.url))

const OWN_FILES = /^(modbus-serial|serialport|@electric-sql\/pglite|pdfmake|piscina|pino|vite|esbuild)(\/|$)/

/** @type {import('esbuild').Plugin} */
const own = {
  name: 'own modules',
  setup({ onResolve, onLoad }) {
    // Packages that bring files of their own stay where they are installed; the others are put in with the workspaces.
    onResolve({ filter: OWN_FILES }, ({ path }) => ({ path, external: true }))
    // A module still finds what lies beside its source.
    onLoad({ filter: /\.ts$/ }, ({ path }) => ({
      contents: readFileSync(path, 'utf8').replaceAll('import.meta.url', JSON.stringify(pathToFileURL(path).href)),
      loader: 'ts',
    }))
  },
}

const [entry = ''] = process.argv.slice(2)
const FOLDER = join(ROOT, 'node_modules', '.cache', 'frustum', 'run', basename(entry, '.ts'))
/** What the last module was made of, and of which copy of the repository: `{ root, module, madeOf: { path: mark } }`. */
const NOTE = join(FOLDER, 'made-of.json')

await import(pathToFileURL(lastModule() ?? (await newModule())).href)

/** The module of the last start, when nothing that it was made of has changed since. */
function lastModule() {
  try {
    const { root, module, madeOf } = JSON.parse(readFileSync(NOTE, 'utf8'))
    const unchanged = Object.entries(madeOf).every(([path, mark]) => markOf(path) === mark)
    return root === ROOT && existsSync(module) && unchanged ? module : null
  } catch {
    return null
  }
}

async function newModule() {
  // Loaded only when it is needed: most starts are not the first.
  const { build } = await import('esbuild')
  const { outputFiles, metafile } = await build({
    entryPoints: [join(ROOT, entry)],
    absWorkingDir: ROOT,
    outdir: FOLDER,
    entryNames: '[name]-[hash]',
    outExtension: { '.js': '.mjs' },
    bundle: true,
    // What is imported later is loaded later.
    splitting: true,
    minifyWhitespace: true,
    write: false,
    metafile: true,
    platform: 'node',
    format: 'esm',
    target: 'node20',
    // Packages of the older kind ask for Node.js's own modules by require.
    banner: {
      js: "import { createRequire as nodeRequire } from 'node:module'; const require = nodeRequire(import.meta.url);",
    },
    plugins: [own],
    logLevel: 'warning',
  })
  mkdirSync(FOLDER, { recursive: true })
  for (const { path, contents } of outputFiles) putWhole(path, contents)
  const module = join(
    ROOT,
    Object.keys(metafile.outputs).find((path) => metafile.outputs[path]?.entryPoint === entry) ?? '',
  )
  const madeOf = [
    'package-lock.json',
    'scripts/launch.mjs',
    ...Object.keys(metafile.inputs).filter((path) => existsSync(join(ROOT, path))),
  ]
  const marks = Object.fromEntries(madeOf.map((path) => [path, markOf(path)]))
  putWhole(NOTE, JSON.stringify({ root: ROOT, module, madeOf: marks }))
  const kept = new Set([NOTE, ...outputFiles.map(({ path }) => path)])
  for (const old of readdirSync(FOLDER).map((file) => join(FOLDER, file)))
    if (!kept.has(old)) rmSync(old, { force: true })
  return module
}

/** @param {string} path */
function markOf(path) {
  const { mtimeMs, size } = statSync(join(ROOT, path))
  return `${mtimeMs} ${size}`
}

/**
 * Several processes may start at the same moment: none finds half a file.
 * @param {string} path
 * @param {string | Uint8Array} contents
 */
function putWhole(path, contents) {
  writeFileSync(`${path}.${process.pid}`, contents)
  renameSync(`${path}.${process.pid}`, path)
}
