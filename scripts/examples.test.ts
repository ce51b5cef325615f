import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import ts from 'typescript'
import { describe, expect, it } from 'vitest'

/** Each example in the docstrings of the science is run, with all of these folders' exports in scope. */

const CORE = fileURLToPath(new URL('../core/src/', import.meta.url))
const FOLDERS = [
  'electrode',
  'standards',
  'conductivity',
  'chemistry',
  'temperature',
  'quantities',
  'statistics',
  'judgement',
]
const files = FOLDERS.flatMap((folder) =>
  readdirSync(join(CORE, folder))
    .filter((name) => /\.ts$/.test(name) && !/\.(test|d)\.ts$/.test(name))
    .map((name) => join(CORE, folder, name)),
)
const modules = import.meta.glob(
  [
    '../core/src/{electrode,standards,conductivity,chemistry}/*.ts',
    '../core/src/{temperature,quantities,statistics,judgement}/*.ts',
    '!**/*.test.ts',
    '!**/*.d.ts',
  ],
  { eager: true },
)
const scope: Record<string, unknown> = Object.assign({}, ...Object.values(modules))
const run = (code: string): unknown => new Function(...Object.keys(scope), `return (${code})`)(...Object.values(scope))

interface Documented {
  name: string
  examples: string[]
}

/** Functions that a file exports, with their examples. */
function documented(file: string): Documented[] {
  const source = ts.createSourceFile(file, readFileSync(file, 'utf8'), ts.ScriptTarget.Latest, true)
  return source.statements.flatMap((statement) => {
    const name = functionName(statement)
    if (!name) return []
    const tags = ts.getJSDocTags(statement).filter((tag) => tag.tagName.text === 'example')
    return [{ name, examples: tags.map((tag) => ts.getTextOfJSDocComment(tag.comment) ?? '') }]
  })
}

function functionName(statement: ts.Statement): string | null {
  const modifiers = ts.canHaveModifiers(statement) ? (ts.getModifiers(statement) ?? []) : []
  if (!modifiers.some((m) => m.kind === ts.SyntaxKind.ExportKeyword)) return null
  if (ts.isFunctionDeclaration(statement)) return statement.name?.text ?? null
  if (!ts.isVariableStatement(statement)) return null
  const [declared] = statement.declarationList.declarations
  return declared?.initializer && ts.isArrowFunction(declared.initializer) ? declared.name.getText() : null
}

/** What is written agrees with what came out, numbers to the figures written. */
function agrees(actual: unknown, written: unknown): void {
  if (typeof written === 'number' && typeof actual === 'number') {
    const half = Number.isInteger(written) && Math.abs(written) < 10_000 ? 1e-9 : Math.abs(written) * 1e-4
    expect(Math.abs(actual - written)).toBeLessThanOrEqual(half)
  } else if (written && typeof written === 'object' && actual && typeof actual === 'object') {
    expect(Object.keys(actual)).toEqual(Object.keys(written))
    for (const [key, value] of Object.entries(written)) agrees((actual as Record<string, unknown>)[key], value)
  } else expect(actual).toEqual(written)
}

describe.each(FOLDERS)('examples of core/src/%s', (folder) => {
  const functions = files.filter((f) => f.startsWith(join(CORE, folder))).flatMap(documented)

  it('stand at every function that is exported', () => {
    expect(functions.length).toBeGreaterThan(0)
    expect(functions.filter((f) => f.examples.length === 0).map((f) => f.name)).toEqual([])
  })

  it.each(functions.flatMap((f) => f.examples.map((example) => [example])))('%s', (example) => {
    const [code = '', written = ''] = example.split(' // ')
    agrees(run(code), run(written))
  })
})
