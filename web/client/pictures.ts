import type { EChartsCoreOption } from 'echarts/core'

export type PictureKind = 'png' | 'svg'

const WIDTH = 1600
const HEIGHT = 640

/** What a chart draws, as a picture of its own on the sheet of the theme. */
export async function pictureOf(option: EChartsCoreOption, kind: PictureKind): Promise<Blob> {
  const { init } = await import('./echarts')
  const backgroundColor = getComputedStyle(document.documentElement).getPropertyValue('--sheet').trim()
  const given = { ...option, backgroundColor, toolbox: { show: false } }
  if (kind === 'svg') {
    const [{ use }, { SVGRenderer }] = await Promise.all([
      import('echarts/core'),
      import('echarts/renderers'),
    ])
    use([SVGRenderer])
    const drawn = init(null, undefined, { renderer: 'svg', ssr: true, width: WIDTH, height: HEIGHT })
    drawn.setOption(given)
    const text = drawn.renderToSVGString()
    drawn.dispose()
    return new Blob([text], { type: 'image/svg+xml' })
  }
  const place = document.createElement('div')
  const drawn = init(place, undefined, {
    renderer: 'canvas',
    width: WIDTH,
    height: HEIGHT,
    devicePixelRatio: 2,
  })
  drawn.setOption(given)
  const canvas = drawn.renderToCanvas({ pixelRatio: 2, backgroundColor })
  const blob = await new Promise<Blob | null>((resolve) => canvas.toBlob(resolve, 'image/png'))
  drawn.dispose()
  if (blob === null) throw new Error('the browser made no picture of it')
  return blob
}

/** Has the browser save something under a name. */
export function saveAs(blob: Blob, name: string): void {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(blob)
  link.download = name
  link.click()
  URL.revokeObjectURL(link.href)
}
