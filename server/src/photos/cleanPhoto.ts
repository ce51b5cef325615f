/** A photo as it is kept: its pixels, and nothing of where, when and with what it was taken. */
export interface CleanPhoto {
  type: 'image/jpeg' | 'image/png' | 'image/webp'
  bytes: Buffer
}

/**
 * A JPEG, PNG or WebP by its content, without what says more than its pixels do: place, time, camera, comments.
 * @returns null for anything else, and for what is cut off
 */
export function cleanPhoto(bytes: Buffer): CleanPhoto | null {
  try {
    if (bytes.subarray(0, 3).equals(JPEG)) return { type: 'image/jpeg', bytes: cleanJpeg(bytes) }
    if (bytes.subarray(0, 8).equals(PNG)) return { type: 'image/png', bytes: cleanPng(bytes) }
    if (bytes.toString('latin1', 0, 4) === 'RIFF' && bytes.toString('latin1', 8, 12) === 'WEBP') {
      return { type: 'image/webp', bytes: cleanWebp(bytes) }
    }
    return null
  } catch (error) {
    // Read beyond its end: it is cut off.
    if (error instanceof RangeError) return null
    throw error
  }
}

const JPEG = Buffer.from([0xff, 0xd8, 0xff])
const PNG = Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a])

/** Application segments that change how the pixels look: JFIF, the colour profile, the colour transform. */
const JPEG_APPLICATIONS = [0xe0, 0xe2, 0xee]
const isDropped = (marker: number) =>
  marker === 0xfe || (marker >= 0xe0 && marker <= 0xef && !JPEG_APPLICATIONS.includes(marker))

/** By the markers of ITU-T T.81, annex B; what stands behind the end of the picture goes too. */
function cleanJpeg(bytes: Buffer): Buffer {
  const kept = [bytes.subarray(0, 2)]
  let at = 2
  for (;;) {
    if (bytes.readUInt8(at) !== 0xff) throw new RangeError('No marker.')
    const marker = bytes.readUInt8(at + 1)
    if (marker === 0xd9) return Buffer.concat([...kept, bytes.subarray(at, at + 2)])
    const end = at + 2 + bytes.readUInt16BE(at + 2)
    if (!isDropped(marker)) kept.push(bytes.subarray(at, end))
    at = end
    if (marker !== 0xda) continue
    while (!(bytes.readUInt8(at) === 0xff && isMarker(bytes.readUInt8(at + 1)))) at++
    kept.push(bytes.subarray(end, at))
  }
}

/** Within the pixels a byte of 255 is followed by nothing, or by a restart. */
const isMarker = (after: number) => after !== 0 && after !== 0xff && !(after >= 0xd0 && after <= 0xd7)

/** Chunks besides the critical ones that change how the pixels look (PNG, W3C recommendation, 11.3). */
const PNG_KEPT = ['tRNS', 'cHRM', 'gAMA', 'iCCP', 'sBIT', 'sRGB', 'pHYs', 'bKGD']

function cleanPng(bytes: Buffer): Buffer {
  const kept = [bytes.subarray(0, 8)]
  let at = 8
  for (;;) {
    const end = at + 12 + bytes.readUInt32BE(at)
    // Its check sum stands at its end.
    bytes.readUInt32BE(end - 4)
    const name = bytes.toString('latin1', at + 4, at + 8)
    const critical = name.charAt(0) === name.charAt(0).toUpperCase()
    if (critical || PNG_KEPT.includes(name)) kept.push(bytes.subarray(at, end))
    if (name === 'IEND') return Buffer.concat(kept)
    at = end
  }
}

/** Flags of an extended WebP that announce Exif and XMP (RFC 9649, 2.7). */
const WEBP_FLAGS = 0x0c

function cleanWebp(bytes: Buffer): Buffer {
  const kept: Buffer[] = []
  const whole = 8 + bytes.readUInt32LE(4)
  for (let at = 12; at < whole; ) {
    const size = bytes.readUInt32LE(at + 4)
    const end = at + 8 + size + (size % 2)
    bytes.readUInt8(at + 7 + size)
    const name = bytes.toString('latin1', at, at + 4)
    const chunk = Buffer.from(bytes.subarray(at, end))
    if (name === 'VP8X') chunk.writeUInt8(chunk.readUInt8(8) & ~WEBP_FLAGS, 8)
    if (name !== 'EXIF' && name !== 'XMP ') kept.push(chunk)
    at = end
  }
  const head = Buffer.from(bytes.subarray(0, 12))
  const body = Buffer.concat(kept)
  head.writeUInt32LE(4 + body.length, 4)
  return Buffer.concat([head, body])
}
