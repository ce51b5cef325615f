import type { AnyObjectSchema, InferType } from 'yup'
import { ValidationError } from 'yup'
import { Problem } from '../problem.ts'

/** Reads a body by its schema, with defaults for what was not sent. @throws Problem 400 with one sentence a field */
export async function readBody<S extends AnyObjectSchema>(schema: S, body: unknown): Promise<InferType<S>> {
  try {
    const sent = await schema.validate(body ?? {}, { abortEarly: false, strict: true })
    return schema.cast(sent)
  } catch (error) {
    if (!(error instanceof ValidationError)) throw error
    const fields = Object.fromEntries(
      error.inner.length > 0 ? error.inner.map((e) => [e.path ?? '', e.message]) : [['', error.message]],
    )
    throw new Problem(400, 'invalid', Object.values(fields)[0] ?? 'The request cannot be read.', {
      detail: 'Nothing was recorded.',
      hint: 'Correct what is named and send it again.',
      fields,
    })
  }
}
