import { once } from 'node:events'
import type { MessagePort } from 'node:worker_threads'
import { readStreamed, type StreamedDocument, UnreadableDocument } from './streamedJson.ts'

/** Reads a file of records, or a set-up, in a thread: its lists are handed on a few elements at a time. */

export interface DocumentTask {
  bytes: Uint8Array
  /** Lists that are handed on, with the most elements that each may have. */
  lists: Readonly<Record<string, number>>
  members: readonly string[]
  port: MessagePort
}

/** What comes over the port: all members first, then the lists piece by piece, and nothing at the end. */
export type DocumentPart = StreamedDocument | { list: string; elements: unknown[] }

/** So many elements are handed on at once. */
const BATCH = 50

export default async function readDocument({ bytes, lists, members, port }: DocumentTask): Promise<object> {
  try {
    // The whole file is read before any of it is taken in: what is no document, or too long, is known by then.
    const found = await readStreamed(bytes, { lists: each(lists, () => () => undefined), members })
    await handOver(port, found)
    let batch: { list: string; elements: unknown[] } | null = null
    const full: { list: string; elements: unknown[] }[] = []
    const put = (list: string) => (element: unknown) => {
      if (batch?.list !== list || batch.elements.length >= BATCH) {
        if (batch) full.push(batch)
        batch = { list, elements: [] }
      }
      batch.elements.push(element)
    }
    const pause = async () => {
      for (const part of full.splice(0)) await handOver(port, part)
    }
    await readStreamed(bytes, { lists: each(lists, put), members: [], pause })
    if (batch) full.push(batch)
    await pause()
    // A port that is closed is noticed only when the thread ends.
    port.postMessage(null)
    return {}
  } catch (error) {
    if (error instanceof UnreadableDocument) return { problem: error.message }
    if (error instanceof HungUp) return {}
    throw error
  } finally {
    port.close()
  }
}

const each = (lists: DocumentTask['lists'], take: (name: string) => (element: unknown) => void) =>
  Object.fromEntries(Object.entries(lists).map(([name, most]) => [name, { most, each: take(name) }]))

class HungUp extends Error {}

/** The next part is read when this one was taken; who hangs up wants none. */
async function handOver(port: MessagePort, part: DocumentPart): Promise<void> {
  port.postMessage(part)
  const heard = new AbortController()
  const goesOn = await Promise.race([
    once(port, 'message', heard).then(() => true),
    once(port, 'close', heard).then(() => false),
  ])
  heard.abort()
  if (!goesOn) throw new HungUp()
}
