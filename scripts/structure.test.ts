import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { dirname, join } from 'node:path'
import ts from 'typescript'
import { afterEach, describe, expect, it } from 'vitest'
import { folderCircles, kindLiterals, stringifiedObjects } from './structure.ts'

/** The rules find what they are there to find, and nothing else. */

const SENSOR_KIND = `export interface SensorKinds { ph: true; orp: true; ion: true }
export type SensorKind = keyof SensorKinds
`
let root: string
afterEach(() => rmSync(root, { recursive: true, force: true }))

function programOf(files: Record<string, string>): ts.Program {
  root = mkdtempSync(join(tmpdir(), 'frustum-structure-'))
  const all = { 'core/src/measurement/sensorKind.ts': SENSOR_KIND, ...files }
  for (const [path, text] of Object.entries(all)) {
    mkdirSync(dirname(join(root, path)), { recursive: true })
    writeFileSync(join(root, path), text)
  }
  return ts.createProgram(
    Object.keys(all).map((path) => join(root, path)),
    { strict: true, noEmit: true, allowImportingTsExtensions: true, module: ts.ModuleKind.ESNext, types: [] },
  )
}
const KIND = `import type { SensorKind } from '../../../core/src/measurement/sensorKind.ts'\n`

describe('names of kinds', () => {
  it('are found by their type: compared, in a case, in a list, as a key', () => {
    const program = programOf({
      'server/src/rounds/verb.ts': `${KIND}
export const isPh = (s: { kind: SensorKind }) => s.kind === 'ph'
export function verb(kind: SensorKind) {
  switch (kind) {
    case 'orp': return 1
    default: return 2
  }
}
export const LIST: SensorKind[] = ['ion']
export const TABLE: Partial<Record<SensorKind, number>> = { ph: 1 }
`,
    })
    expect(kindLiterals(program, root)).toEqual([3, 6, 10, 11].map((line) => `server/src/rounds/verb.ts:${line}`))
  })

  it('may stand in the kinds themselves, and are no names where the type is another', () => {
    const program = programOf({
      'core/src/kinds/ph/index.ts': `${KIND.replace('../../../core/src', '../..')}export const ID: SensorKind = 'ph'\n`,
      'web/src/rooms/search.ts': `export const isPh = (word: string) => word === 'ph'\n`,
    })
    expect(kindLiterals(program, root)).toEqual([])
  })
})

it('an object in a template literal is found, not one in a tagged one, nor a text', () => {
  const program = programOf({
    'core/src/a.ts': `declare function say(words: TemplateStringsArray, ...holes: object[]): object
const limit = { value: 1 }
export const wrong = \`at most \${limit}\`
export const right = [say\`at most \${limit}\`, \`at most \${limit.value}\`]
`,
  })
  expect(stringifiedObjects(program, root)).toEqual(['core/src/a.ts:3'])
})

it('folders that import each other are found once, over any number of folders, types included', () => {
  const program = programOf({
    'server/src/a/one.ts': `import type { Three } from '../c/three.ts'\nexport type One = Three\n`,
    'server/src/b/two.ts': `import { one } from '../a/more.ts'\nexport const two = one\n`,
    'server/src/a/more.ts': 'export const one = 1\n',
    'server/src/c/three.ts': `export { two } from '../b/two.ts'\nexport type Three = 3\n`,
    'server/src/d/four.ts': `import '../a/more.ts'\n`,
  })
  expect(folderCircles(program, root)).toEqual(['server/src/a > server/src/c > server/src/b > server/src/a'])
})
