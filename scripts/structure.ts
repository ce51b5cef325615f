import { dirname, relative } from 'node:path'
import ts from 'typescript'

/** Rules on the structure of the code that need the types of a whole program. Each returns what breaks it. */

const PRODUCT = /^(core|contract|server|web)\//
const TESTS = /\.test\.tsx?$/
const OF_KINDS = /^core\/src\/kinds\//

const productFiles = (program: ts.Program, root: string) =>
  program
    .getSourceFiles()
    .map((file) => ({ file, path: relative(root, file.fileName) }))
    .filter(({ path }) => PRODUCT.test(path) && !path.includes('node_modules') && !TESTS.test(path))

const placeOf = (file: ts.SourceFile, path: string, node: ts.Node) =>
  `${path}:${file.getLineAndCharacterOfPosition(node.getStart(file)).line + 1}`

/** Literals of the type SensorKind outside the folders of the kinds: compared, listed, or as keys of a table. */
export function kindLiterals(program: ts.Program, root: string): string[] {
  const checker = program.getTypeChecker()
  const kinds = kindNames(program, checker, root)
  const isKind = (type: ts.Type | undefined): boolean => {
    if (!type?.isUnion()) return false
    const names = type.types.flatMap((t) => (t.isStringLiteral() ? [t.value] : []))
    return names.length > 2 && names.every((n) => kinds.has(n)) && [...kinds].every((k) => names.includes(k))
  }
  const declared = (node: ts.Expression) => {
    const symbol = checker.getSymbolAtLocation(ts.isPropertyAccessExpression(node) ? node.name : node)
    return symbol && checker.getTypeOfSymbol(symbol)
  }
  const ofKind = (node: ts.Expression) => isKind(declared(node)) || isKind(checker.getTypeAtLocation(node))
  const names = (node: ts.Node): boolean => {
    if (ts.isStringLiteral(node) && kinds.has(node.text)) {
      const { parent } = node
      if (ts.isBinaryExpression(parent)) return ofKind(parent.left === node ? parent.right : parent.left)
      if (ts.isCaseClause(parent)) return ofKind(parent.parent.parent.expression)
      return isKind(checker.getContextualType(node))
    }
    if (!ts.isPropertyAssignment(node) || !ts.isObjectLiteralExpression(node.parent)) return false
    const key = ts.isIdentifier(node.name) || ts.isStringLiteral(node.name) ? node.name.text : ''
    const table = kinds.has(key) ? checker.getContextualType(node.parent) : undefined
    const keys = table ? checker.getPropertiesOfType(table).map((p) => p.name) : []
    return keys.length > 0 && [...kinds].every((k) => keys.includes(k))
  }
  return productFiles(program, root)
    .filter(({ path }) => !OF_KINDS.test(path))
    .flatMap(({ file, path }) => found(file, names).map((node) => placeOf(file, path, node)))
}

/** The members of SensorKind, as declared by the product's own kinds. */
function kindNames(program: ts.Program, checker: ts.TypeChecker, root: string): Set<string> {
  const home = program.getSourceFiles().find((f) => relative(root, f.fileName) === 'core/src/measurement/sensorKind.ts')
  const symbol = home && checker.getSymbolAtLocation(home)
  const registry = symbol && checker.getExportsOfModule(symbol).find((s) => s.name === 'SensorKinds')
  if (!registry) throw new Error('SensorKinds is not where it was.')
  return new Set(checker.getPropertiesOfType(checker.getDeclaredTypeOfSymbol(registry)).map((p) => p.name))
}

/** Template literals without a tag that hold an object: it would read "[object Object]". */
export function stringifiedObjects(program: ts.Program, root: string): string[] {
  const checker = program.getTypeChecker()
  const isText = (type: ts.Type): boolean => {
    if (type.isUnion()) return type.types.every(isText)
    if (type.isIntersection()) return type.types.some(isText)
    return !(type.flags & (ts.TypeFlags.Object | ts.TypeFlags.NonPrimitive))
  }
  const spans = (node: ts.Node) =>
    ts.isTemplateSpan(node) &&
    !ts.isTaggedTemplateExpression(node.parent.parent) &&
    !isText(checker.getTypeAtLocation(node.expression))
  return productFiles(program, root).flatMap(({ file, path }) =>
    found(file, spans).map((node) => placeOf(file, path, node)),
  )
}

/** Folders of one workspace that import each other, types included: the shortest circle through each. */
export function folderCircles(program: ts.Program, root: string): string[] {
  const imports = new Map<string, Set<string>>()
  for (const { file, path } of productFiles(program, root)) {
    const from = folderOf(path)
    for (const statement of file.statements) {
      if (!ts.isImportDeclaration(statement) && !ts.isExportDeclaration(statement)) continue
      const { moduleSpecifier } = statement
      if (!moduleSpecifier || !ts.isStringLiteral(moduleSpecifier) || !moduleSpecifier.text.startsWith('.')) continue
      const to = folderOf(relative(root, `${dirname(file.fileName)}/${moduleSpecifier.text}`))
      if (to !== from) imports.set(from, (imports.get(from) ?? new Set()).add(to))
    }
  }
  const circles = new Set<string>()
  for (const start of imports.keys()) {
    const circle = shortestWayBack(start, imports)
    if (circle) circles.add(circle)
  }
  return [...circles]
}

/** "server/src/visits" is a folder, with all below it; a file beside the folders stands for itself. */
const folderOf = (path: string) => path.split('/').slice(0, 3).join('/')

function shortestWayBack(start: string, imports: ReadonlyMap<string, ReadonlySet<string>>): string | null {
  const ways: string[][] = [[start]]
  const seen = new Set<string>()
  for (let way = ways.shift(); way; way = ways.shift()) {
    for (const next of imports.get(way.at(-1) as string) ?? []) {
      if (next === start) {
        // The same circle is found from each of its folders: it is told from the first in the alphabet.
        const first = [...way].sort()[0] === start
        return first ? [...way, start].join(' > ') : null
      }
      if (!seen.has(next)) ways.push([...way, next])
      seen.add(next)
    }
  }
  return null
}

function found(file: ts.SourceFile, holds: (node: ts.Node) => boolean): ts.Node[] {
  const nodes: ts.Node[] = []
  const visit = (node: ts.Node) => {
    if (holds(node)) nodes.push(node)
    ts.forEachChild(node, visit)
  }
  visit(file)
  return nodes
}
