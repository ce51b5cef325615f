import { on } from 'node:events'
import { MessageChannel } from 'node:worker_threads'
import { Problem } from '../problem.ts'
import type { DocumentPart, DocumentTask } from './documentWorker.ts'
import type { StreamedDocument } from './streamedJson.ts'
import { inThread } from './thread.ts'

type Part = Extract<DocumentPart, { list: string }>

/** A JSON document that is read in a thread while it is taken in. */
export interface ReadDocument extends StreamedDocument {
  /** The elements of its lists, a few at a time, in the order of the file. */
  parts: AsyncIterable<Part>
}

/**
 * Hands a document to who takes it in, which is told of its members first and draws its lists while they are read.
 * @throws Problem for what is no such document
 */
export async function withDocument<T>(
  bytes: Uint8Array,
  { lists, members }: Pick<DocumentTask, 'lists' | 'members'>,
  take: (document: ReadDocument) => Promise<T>,
): Promise<T> {
  const { port1: here, port2: port } = new MessageChannel()
  const ended = new AbortController()
  const messages = on(here, 'message', { signal: ended.signal, close: ['close'] })
  // The thread keeps a copy of its own; whatever it ends with, nobody waits for its messages any longer.
  const read = inThread<object>('documentWorker', { bytes, lists, members, port } satisfies DocumentTask, [port]).then(
    (answer) => {
      if ('problem' in answer) ended.abort(unreadable(String(answer.problem)))
      return answer
    },
  )
  const next = async (): Promise<DocumentPart | null> => {
    try {
      const { value, done } = await messages.next()
      return done ? null : (value as [DocumentPart | null])[0]
    } catch (error) {
      if (ended.signal.aborted) throw ended.signal.reason
      throw error
    }
  }
  async function* parts(): AsyncGenerator<Part> {
    for (let part = await drawn(); part; part = await drawn()) if ('list' in part) yield part
  }
  const drawn = () => {
    here.postMessage('next')
    return next()
  }
  try {
    const first = await next()
    if (!first || !('members' in first)) {
      await read
      throw ended.signal.reason ?? unreadable(TOO_LARGE)
    }
    return await take({ ...first, parts: parts() })
  } finally {
    here.close()
    await read
  }
}

const TOO_LARGE = 'The file is too large, or damaged.'

const unreadable = (why: string) =>
  new Problem(400, 'unreadable-file', why, {
    detail: 'Nothing was taken in.',
    hint: 'Choose a file that was saved by Frustum.',
  })
