/** Longest side of a photo that is kept, px: enough to read a label, and small enough for a phone's network. */
const LONGEST = 1600

/**
 * A photo drawn anew in the size that is kept: turned as the camera held it, and without what the file said of the place.
 * @throws Error where the browser cannot read it as a picture
 */
export async function shrunkPhoto(file: File): Promise<Blob> {
  const picture = await createImageBitmap(file)
  const scale = Math.min(1, LONGEST / Math.max(picture.width, picture.height))
  const canvas = document.createElement('canvas')
  canvas.width = Math.round(picture.width * scale)
  canvas.height = Math.round(picture.height * scale)
  canvas.getContext('2d')?.drawImage(picture, 0, 0, canvas.width, canvas.height)
  return new Promise((resolve, reject) =>
    canvas.toBlob((blob) => (blob ? resolve(blob) : reject(new Error('No picture.'))), 'image/jpeg', 0.85),
  )
}
