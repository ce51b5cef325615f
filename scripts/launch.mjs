import { createHash } from 'node:crypto'
import { existsSync, mkdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { fileURLToPath, pathToFileURL } from 'node:url'
import { build } from 'esbuild'

/**
 * Runs a script of this repository as one module: `node scripts/launch.mjs scripts/demo.ts`. Loading its hundreds of
 * modules one by one takes longer than putting them together anew at every start.
 */

const ROOT = fileURLToPath(new URL('..', import.meta.url))
const FOLDER = join(ROOT, 'node_modules', '.cache', 'frustum', 'run')

/** @type {import('esbuild').Plugin} */
const own = {
  name: 'own modules',
  setup({ onResolve, onLoad }) {
    // Packages stay where they are installed; the workspaces are our own.
    onResolve({ filter: /^[^./]/ }, ({ path, kind }) =>
      kind === 'entry-point' || path.startsWith('@frustum/') ? undefined : { path, external: true },
    )
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
  plugins: [own],
  logLevel: 'warning',
})
const [{ contents }] = outputFiles
// Named by what is in it, and put there whole: several processes may start at the same moment.
const path = join(FOLDER, `${createHash('sha256').update(contents).digest('hex').slice(0, 16)}.mjs`)
if (!existsSync(path)) {
  mkdirSync(dirname(path), { recursive: true })
  writeFileSync(`${path}.${process.pid}`, contents)
  renameSync(`${path}.${process.pid}`, path)
}
await import(pathToFileURL(path).href)
