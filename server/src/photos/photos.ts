import { createHash } from 'node:crypto'
import { eq } from 'drizzle-orm'
import type { Database, Transaction } from '../database/open.ts'
import { photos } from '../database/schema.ts'
import { notFound, Problem } from '../problem.ts'
import { cleanPhoto } from './cleanPhoto.ts'

/** Keeps a photo under the SHA-256 of its content; the same one twice is kept once. @throws Problem for what is none */
export async function keepPhoto(db: Database | Transaction, sent: unknown, now: Date): Promise<{ photo: string }> {
  const clean = Buffer.isBuffer(sent) ? cleanPhoto(sent) : null
  if (!clean) {
    throw new Problem(400, 'invalid', 'This is no photo that can be kept.', {
      detail: 'Nothing was stored.',
      hint: 'Take a JPEG, a PNG or a WebP.',
    })
  }
  const sha256 = createHash('sha256').update(clean.bytes).digest('hex')
  await db
    .insert(photos)
    .values({ sha256, ...clean, addedAt: now })
    .onConflictDoNothing()
  return { photo: sha256 }
}

export async function photoOf(db: Database | Transaction, sha256: string) {
  const [photo] = await db.select().from(photos).where(eq(photos.sha256, sha256))
  if (!photo) throw notFound('photo')
  return photo
}
