import { Tokenizer, TokenParser, TokenType } from '@streamparser/json'

/** What is taken of a document: lists an element at a time, all else whole. */
interface Taking {
  /** At most so many elements, and what is done with each. */
  lists: Readonly<Record<string, { most: number; each(element: unknown): void }>>
  /** Other members, by name. */
  members: readonly string[]
  /** After each piece of the file; where it waits, the file waits. */
  pause?(): Promise<void>
}

/** A document that is none, or too long, said in one sentence. */
export class UnreadableDocument extends Error {
  override name = 'UnreadableDocument'
}

/** Its members, and those of its lists that are there, be it without an element. */
export interface StreamedDocument {
  members: Record<string, unknown>
  lists: string[]
}

const PIECE = 256 * 1024

/**
 * Reads a JSON document of which the lists may be long, without ever holding it as a whole; members that nobody asked
 * for are passed over.
 * @throws UnreadableDocument
 */
export async function readStreamed(bytes: Uint8Array, { lists, members, pause }: Taking): Promise<StreamedDocument> {
  const found: StreamedDocument = { members: {}, lists: [] }
  let failure: UnreadableDocument | null = null
  const fail = (why: string) => {
    failure ??= new UnreadableDocument(why)
  }
  const parser = new TokenParser({
    paths: [...members.map((name) => `$.${name}`), ...Object.keys(lists).map((name) => `$.${name}.*`)],
    keepStack: false,
  })
  const counts: Record<string, number> = {}
  parser.onValue = ({ value, key, stack }) => {
    // A member stands in the document itself; an element in a member of it.
    if (stack.length === 1) {
      found.members[String(key)] = value
      return
    }
    const name = String(stack[1]?.key)
    const list = lists[name]
    if (!list || failure) return
    counts[name] = (counts[name] ?? 0) + 1
    if (counts[name] > list.most) fail(`The file has more than ${list.most} ${name}.`)
    else list.each(value)
  }
  const tokenizer = new Tokenizer()
  const begins = memberBegins((name, isList) => {
    if (!lists[name]) return
    if (isList) found.lists.push(name)
    else fail(`${name} is no list.`)
  })
  tokenizer.onToken = (token) => {
    begins(token.token, token.value)
    parser.write(token)
  }
  tokenizer.onError = () => fail('The file is no JSON document.')
  parser.onError = () => fail('The file is no JSON document.')
  for (let at = 0; at < bytes.length; at += PIECE) {
    tokenizer.write(bytes.subarray(at, at + PIECE))
    if (failure) throw failure
    await pause?.()
  }
  if (!parser.isEnded) throw new UnreadableDocument('The file ends before its end.')
  return found
}

/** Follows the tokens of a document; tells of each of its members by what it begins with. */
function memberBegins(tell: (name: string, isList: boolean) => void): (token: TokenType, value: unknown) => void {
  let depth = 0
  let key: string | null = null
  let isValue = false
  return (token, value) => {
    if (depth === 1) {
      if (isValue && key !== null) tell(key, token === TokenType.LEFT_BRACKET)
      if (!isValue && token === TokenType.STRING) key = String(value)
      isValue = token === TokenType.COLON
    }
    if (token === TokenType.LEFT_BRACE || token === TokenType.LEFT_BRACKET) depth++
    if (token === TokenType.RIGHT_BRACE || token === TokenType.RIGHT_BRACKET) depth--
  }
}
