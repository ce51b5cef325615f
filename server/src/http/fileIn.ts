import { Problem } from '../problem.ts'

/** The bytes of a file that was sent as it is. @throws Problem where there is none */
export function fileIn(body: unknown, hint = 'Choose a JSON file that was saved by Frustum.'): Buffer {
  if (Buffer.isBuffer(body) && body.length > 0) return body
  throw new Problem(400, 'no-file', 'There is no file.', { hint })
}
