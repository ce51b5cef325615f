import { createHash } from 'node:crypto'
import { existsSync, mkdirSync, readdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs'
import { basename, join } from 'node:path'
import { fileURLToPath, pathToFileURL } from 'node:url'
import { build } from 'esbuild'

/**
 * Runs a script of this repository as one module: `node scripts/launch.mjs scripts/demo.ts`. Loading its hundreds of
 * modules one by one takes longer than putting them together anew at every start.
 */

const ROOT = fileURLToPath(new URL('..', import.meta.url))
const FOLDER = join(ROOT, 'node_modules', '.cache', 'frustum', 'run')

const OWN_FILES = /^(@electric-sql\/pglite|piscina|pino|modbus-serial|vite|esbuild)(\/|$)/

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
const { outputFiles } = await build({
  entryPoints: [join(ROOT, entry)],
  bundle: true,
  write: false,
  platform: 'node',
  format: 'esm',
  target: 'node20',
  sourcemap: 'inline',
  // Packages of the older kind ask for Node.js's own modules by require.
  banner: {
    js: "import { createRequire as nodeRequire } from 'node:module'; const require = nodeRequire(import.meta.url);",
  },
  plugins: [own],
  logLevel: 'warning',
})
const [{ contents }] = outputFiles
// Named by what is in it, and put there whole: several processes may start at the same moment.
const name = basename(entry, '.ts')
const path = join(FOLDER, `${name}-${createHash('sha256').update(contents).digest('hex').slice(0, 16)}.mjs`)
if (!existsSync(path)) {
  mkdirSync(FOLDER, { recursive: true })
  for (const old of readdirSync(FOLDER)) if (old.startsWith(`${name}-`)) rmSync(join(FOLDER, old), { force: true })
  writeFileSync(`${path}.${process.pid}`, contents)
  renameSync(`${path}.${process.pid}`, path)
}
await import(pathToFileURL(path).href)
