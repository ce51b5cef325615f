import { expect, it } from 'vitest'
import { cleanPhoto } from './cleanPhoto.ts'

/** Built by hand after ITU-T T.81 (JPEG), the PNG recommendation and RFC 9649 (WebP). */

const PLACE = 'GPSLatitude 54.3'
const segment = (marker: number, content: Buffer) => {
  const size = Buffer.alloc(2)
  size.writeUInt16BE(content.length + 2)
  return Buffer.concat([Buffer.from([0xff, marker]), size, content])
}
const jpeg = Buffer.concat([
  Buffer.from([0xff, 0xd8]),
  segment(0xe0, Buffer.from('JFIF\0')),
  segment(0xe1, Buffer.from(`Exif\0\0${PLACE}`)),
  segment(0xed, Buffer.from(PLACE)),
  segment(0xfe, Buffer.from(PLACE)),
  segment(0xdb, Buffer.from('table')),
  segment(0xda, Buffer.from('scan')),
  // Pixels with a stuffed byte and a restart, then a second scan.
  Buffer.from([1, 2, 0xff, 0x00, 3, 0xff, 0xd0, 4]),
  segment(0xda, Buffer.from('scan')),
  Buffer.from([5, 6, 0xff, 0xd9]),
  Buffer.from(`a film behind the picture, ${PLACE}`),
])
const chunk = (name: string, content: Buffer) => {
  const size = Buffer.alloc(4)
  size.writeUInt32BE(content.length)
  return Buffer.concat([size, Buffer.from(name), content, Buffer.alloc(4)])
}
const png = Buffer.concat([
  Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]),
  chunk('IHDR', Buffer.alloc(13)),
  chunk('eXIf', Buffer.from(PLACE)),
  chunk('tEXt', Buffer.from(PLACE)),
  chunk('gAMA', Buffer.alloc(4)),
  chunk('IDAT', Buffer.from('pixels')),
  chunk('IEND', Buffer.alloc(0)),
  Buffer.from(PLACE),
])
const riff = (name: string, content: Buffer) => {
  const size = Buffer.alloc(4)
  size.writeUInt32LE(content.length)
  return Buffer.concat([Buffer.from(name), size, content, Buffer.alloc(content.length % 2)])
}
const webp = riff(
  'RIFF',
  Buffer.concat([
    Buffer.from('WEBP'),
    riff('VP8X', Buffer.from([0x0c | 0x10, ...Array(9).fill(0)])),
    riff('VP8 ', Buffer.from('pixel')),
    riff('EXIF', Buffer.from(PLACE)),
    riff('XMP ', Buffer.from(PLACE)),
  ]),
)

it.each([
  ['image/jpeg', jpeg, ['JFIF', 'table', '\x03\xff\xd0\x04', '\x05\x06\xff\xd9']],
  ['image/png', png, ['IHDR', 'gAMA', 'pixels', 'IEND']],
  ['image/webp', webp, ['VP8X', 'pixel']],
] as const)('%s: its pixels stay, the place where it was taken goes', (type, bytes, stays) => {
  const clean = cleanPhoto(bytes)
  const text = clean?.bytes.toString('latin1') ?? ''
  expect(clean?.type).toBe(type)
  expect(text).not.toContain('GPS')
  for (const part of stays) expect(text).toContain(part)
  // What is clean stays as it is.
  expect(cleanPhoto(clean?.bytes as Buffer)?.bytes.equals(clean?.bytes as Buffer)).toBe(true)
})

it('a WebP says no longer that it holds what was taken out, and its size is that of what is left', () => {
  const { bytes } = cleanPhoto(webp) as { bytes: Buffer }
  expect(bytes.readUInt32LE(4)).toBe(bytes.length - 8)
  expect(bytes.readUInt8(20)).toBe(0x10)
})

it('whatever is cut off, or is something else by its content, is none', () => {
  for (const bytes of [jpeg.subarray(0, jpeg.indexOf('film') - 12), png, webp]) {
    for (let length = 0; length < bytes.length - PLACE.length - 12; length++) {
      expect(cleanPhoto(bytes.subarray(0, length)), `${length} bytes`).toBeNull()
    }
  }
  expect(cleanPhoto(Buffer.from('<svg onload="alert(1)"/>'))).toBeNull()
  expect(cleanPhoto(Buffer.from('GIF89a'))).toBeNull()
})
