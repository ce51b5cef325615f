/** Twice as fine as the screen, so that it can be printed. */
const SCALE = 2
const PAINTED = ['fill', 'stroke', 'font-family', 'font-size', 'stroke-dasharray', 'fill-opacity'] as const

/** Room for the title above the drawing, px. */
const TITLE_HEIGHT = 30

/** Puts a drawing into the clipboard as a picture; where the browser does not let it, it is saved as a file. */
export async function copyPicture(
  svg: SVGSVGElement,
  { name, title }: { name: string; title: string },
): Promise<'copied' | 'saved'> {
  const picture = pictureOf(svg, title)
  try {
    await navigator.clipboard.write([new ClipboardItem({ 'image/png': picture })])
    return 'copied'
  } catch {
    const link = document.createElement('a')
    link.href = URL.createObjectURL(await picture)
    link.download = `${name}.png`
    link.click()
    setTimeout(() => URL.revokeObjectURL(link.href), 10_000)
    return 'saved'
  }
}

async function pictureOf(svg: SVGSVGElement, title: string): Promise<Blob> {
  const { width, height } = svg.getBoundingClientRect()
  const copy = svg.cloneNode(true) as SVGSVGElement
  copy.setAttribute('width', String(width))
  copy.setAttribute('height', String(height))
  // Outside the page nothing is known of its colours.
  const [shown, copied] = [svg.querySelectorAll('*'), copy.querySelectorAll('*')]
  shown.forEach((element, i) => {
    const style = getComputedStyle(element)
    const to = copied[i] as SVGElement
    for (const key of PAINTED) to.style.setProperty(key, style.getPropertyValue(key))
  })
  const image = new Image()
  image.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(new XMLSerializer().serializeToString(copy))}`
  await image.decode()
  const canvas = document.createElement('canvas')
  canvas.width = width * SCALE
  canvas.height = (height + TITLE_HEIGHT) * SCALE
  const context = canvas.getContext('2d') as CanvasRenderingContext2D
  const page = getComputedStyle(document.body)
  context.fillStyle = page.backgroundColor
  context.fillRect(0, 0, canvas.width, canvas.height)
  context.scale(SCALE, SCALE)
  context.fillStyle = page.color
  context.font = `15px ${page.fontFamily}`
  context.fillText(title, 12, 20)
  context.drawImage(image, 0, TITLE_HEIGHT, width, height)
  return new Promise((resolve, reject) =>
    canvas.toBlob((blob) => (blob ? resolve(blob) : reject(new Error('No picture.'))), 'image/png'),
  )
}
