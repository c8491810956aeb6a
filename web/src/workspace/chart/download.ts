/** How many dots of the picture stand for one on screen, so that it is sharp in print. */
const SHARPNESS = 2

/** Hands a text or file to the browser to keep. */
export function save(content: string | Blob, name: string, type = ''): void {
  const address = URL.createObjectURL(content instanceof Blob ? content : new Blob([content], { type }))
  const link = document.createElement('a')
  link.href = address
  link.download = name
  link.click()
  URL.revokeObjectURL(address)
}

/** A drawing as a picture, on paper. */
export async function savePicture(drawing: string, width: number, height: number): Promise<void> {
  const image = new Image()
  image.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(drawing)}`
  await image.decode()
  const canvas = document.createElement('canvas')
  canvas.width = width * SHARPNESS
  canvas.height = height * SHARPNESS
  const brush = canvas.getContext('2d')
  if (!brush) return
  brush.fillStyle = getComputedStyle(document.querySelector('.chart') ?? document.body).backgroundColor
  brush.fillRect(0, 0, canvas.width, canvas.height)
  brush.drawImage(image, 0, 0, canvas.width, canvas.height)
  canvas.toBlob((found) => found && save(found, 'chart.png'))
}
