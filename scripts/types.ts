import { existsSync } from 'node:fs'
import { join, relative } from 'node:path'
import { fileURLToPath } from 'node:url'
import ts from 'typescript'
import { folderCircles, kindLiterals, stringifiedObjects } from './structure.ts'

const ROOT = fileURLToPath(new URL('..', import.meta.url))

/**
 * The journeys' program holds all the others; without the demo and the lab, server and pages are checked alone, and
 * without their tests. That core and contract know neither Node.js nor a browser is a rule of the lint.
 */
const whole = ['demo', 'lab'].every((folder) => existsSync(join(ROOT, folder)))
const host = { ...ts.sys, onUnRecoverableConfigFileDiagnostic: () => undefined }
const formatHost: ts.FormatDiagnosticsHost = {
  getCurrentDirectory: () => ROOT,
  getCanonicalFileName: (name) => name,
  getNewLine: () => '\n',
}

for (const folder of whole ? ['e2e'] : ['contract', 'server', 'web']) {
  const config = ts.getParsedCommandLineOfConfigFile(join(ROOT, folder, 'tsconfig.json'), {}, host)
  if (!config) throw new Error(`${folder}/tsconfig.json cannot be read.`)
  const files = whole ? config.fileNames : config.fileNames.filter((name) => !/\.test\.tsx?$/.test(name))
  const program = ts.createProgram(files, config.options)
  const diagnostics = [...config.errors, ...ts.getPreEmitDiagnostics(program)]
  console.log(ts.formatDiagnosticsWithColorAndContext(diagnostics, formatHost))
  const broken = [
    ...kindLiterals(program, ROOT).map((at) => `${at} names a kind of sensor outside core/src/kinds: ask for a trait.`),
    ...stringifiedObjects(program, ROOT).map((at) => `${at} makes text of an object: use say\`...\` or render it.`),
    ...folderCircles(program, ROOT).map((circle) => `Folders import each other: ${circle}`),
  ]
  for (const line of broken) console.error(relative('', line))
  if (diagnostics.length > 0 || broken.length > 0) process.exit(1)
}
