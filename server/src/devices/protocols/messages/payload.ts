import { XMLParser } from 'fast-xml-parser'
import jsonPointer from 'jsonpointer'
import Papa from 'papaparse'
import { lineRecords } from './lineProtocol.ts'
import {
  type Leaf,
  type MessageFormat,
  type MessageRecord,
  PayloadProblem,
  type Reading,
  type Scalar,
} from './message.ts'
import { senmlRecords } from './senml.ts'
import { readTime } from './times.ts'

/** More fields than this are not looked through: a device has a few dozen. */
const MOST_LEAVES = 2000
const MOST_DEPTH = 20

/**
 * What a message says, moment by moment, in the order in which it stands there.
 * @throws PayloadProblem where it is not what it should be
 */
export function readPayload(text: string, reading: Reading): MessageRecord[] {
  switch (reading.format) {
    case 'number':
      return [bareNumber(text)]
    case 'json':
      return jsonRecords(text, reading)
    case 'xml':
      return [treeRecord(xmlTree(text), reading)]
    case 'senml':
      return senmlRecords(parsedJson(text), reading.now)
    case 'csv':
      return csvRecords(text, reading)
    case 'line':
      return lineRecords(text, reading.now)
  }
}

function bareNumber(text: string): MessageRecord {
  const value = text.trim()
  if (value.length > 100) throw new PayloadProblem('What came is no single number.')
  return {
    at: null,
    find: (field) => (field === '' ? value : undefined),
    leaves: () => [{ field: '', value, unit: '' }],
  }
}

function parsedJson(text: string): unknown {
  try {
    return JSON.parse(text)
  } catch {
    throw new PayloadProblem(text.trim() === '' ? 'What came is empty.' : 'What came is not readable JSON.')
  }
}

/** A list of moments, each with its time in it, or one of now. */
function jsonRecords(text: string, reading: Reading): MessageRecord[] {
  const tree = parsedJson(text)
  if (Array.isArray(tree) && reading.time !== undefined) return tree.map((one) => treeRecord(one, reading))
  return [treeRecord(tree, reading)]
}

const xml = new XMLParser({
  ignoreAttributes: false,
  attributeNamePrefix: '@',
  parseTagValue: false,
  parseAttributeValue: false,
  // Nothing is made of what a document defines by itself: a small one could become a huge one.
  processEntities: false,
})

function xmlTree(text: string): unknown {
  try {
    // Strict: half a document is none.
    const tree = xml.parse(text, true)
    if (Object.keys(tree).length > 0) return tree
  } catch {
    // said below
  }
  throw new PayloadProblem('What came is not readable XML.')
}

function treeRecord(tree: unknown, { time, now }: Reading): MessageRecord {
  const find = (field: string): Scalar | undefined => {
    const found = at(tree, field)
    return isScalar(found) ? found : undefined
  }
  const said = time === undefined ? undefined : find(time)
  return { at: said === undefined ? null : readTime(said, now), find, leaves: () => leavesOf(tree) }
}

/** By a JSON pointer (RFC 6901); an empty one is the whole. */
function at(tree: unknown, field: string): unknown {
  if (field === '') return tree
  if (!field.startsWith('/') || typeof tree !== 'object' || tree === null) return undefined
  try {
    return jsonPointer.get(tree, field)
  } catch {
    return undefined
  }
}

const isScalar = (value: unknown): value is Scalar =>
  value === null || ['number', 'string', 'boolean'].includes(typeof value)

function leavesOf(tree: unknown, field = '', into: Leaf[] = [], depth = 0): Leaf[] {
  if (into.length >= MOST_LEAVES || depth > MOST_DEPTH) return into
  if (isScalar(tree)) into.push({ field, value: tree, unit: '' })
  else if (typeof tree === 'object') {
    for (const [key, value] of Object.entries(tree as object)) {
      leavesOf(value, `${field}/${key.replaceAll('~', '~0').replaceAll('/', '~1')}`, into, depth + 1)
    }
  }
  return into
}

/** Headings that a column of times has, where nobody says which it is. */
const TIME_HEADINGS = /^(time|timestamp|date|datetime|date and time)$/i

function csvRecords(text: string, { time, now }: Reading): MessageRecord[] {
  const { data, meta } = Papa.parse<Record<string, string>>(text.trim(), { header: true, skipEmptyLines: true })
  const columns = meta.fields ?? []
  if (data.length === 0) throw new PayloadProblem('What came has no row under its headings.')
  const timeColumn = time ?? columns.find((column) => TIME_HEADINGS.test(column.trim()))
  return data.map((row) => {
    const find = (field: string): Scalar | undefined => (Object.hasOwn(row, field) ? row[field] : undefined)
    const said = timeColumn === undefined ? undefined : find(timeColumn)
    return {
      at: said === undefined ? null : readTime(said, now),
      find,
      leaves: () => columns.map((field) => ({ field, value: row[field] ?? null, unit: '' })),
    }
  })
}

/** In what a message seems to be written, for whoever does not know yet. */
export function formatOf(text: string): MessageFormat {
  const began = text.trimStart()[0] ?? ''
  if (began === '<') return 'xml'
  if (began === '{' || began === '[') {
    const isPack = /^\s*\[\s*\{[^}]*"(n|bn|v|bt)"\s*:/.test(text)
    return isPack ? 'senml' : 'json'
  }
  if (/^\s*[+\-−]?\d[\d.,]*\s*\S{0,6}\s*$/.test(text)) return 'number'
  if (/^[^\s,=]+(,[^\s=]+=[^\s]+)* [^\s=]+=/.test(text)) return 'line'
  return /^[^\n]*[,;\t][^\n]*\n/.test(text) ? 'csv' : 'number'
}
