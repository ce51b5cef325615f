import { notFound } from '../problem.ts'

/** Texts as a database takes them, and as no person types them: without NUL, and without halves of a character. */

const NUL = '\u0000'

const cleanText = (text: string): string => text.replaceAll(NUL, '').replace(/\p{Surrogate}/gu, '\ufffd')

/**
 * For `JSON.parse`: every text that comes in is clean. A name that is not clean names nothing, nor does one that every
 * object has by itself, such as `toString`.
 */
export const cleaning = (name: string, value: unknown): unknown => {
  if (cleanText(name) !== name || name in Object.prototype) return undefined
  return typeof value === 'string' ? cleanText(value) : value
}

/** An address with a NUL in it leads nowhere. */
export function refuseNul(req: { url: string }, _res: unknown, next: (error?: unknown) => void): void {
  next(/%00/.test(req.url) ? notFound('address') : undefined)
}
