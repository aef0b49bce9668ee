import PDFDocument from 'pdfkit'
import { unitLabel } from '#core/site'
import type { InventoryRow } from '../gear/inventory.ts'
import type { MountedView, RackView } from '#core/site'

const PAGE = { width: 595, height: 842, margin: 40 } // A4 in points
const INK = '#14222b'
const PALE = '#5c6d77'
const RULE = '#b4c2c9'

export interface RackSheet {
  readonly site: string
  readonly room: string
  readonly rack: RackView
  readonly rows: ReadonlyMap<number, InventoryRow>
  readonly made: string
}

/** One rack on paper: both sides drawn, and what stands where with model, serial number and feeds. A4, as many pages as it takes. */
export async function rackSheet({ site, room, rack, rows, made }: RackSheet): Promise<Buffer> {
  const paper = new PDFDocument({
    size: 'A4',
    margin: PAGE.margin,
    info: { Title: `${rack.name}, ${room}`, Author: site },
  })
  const chunks: Buffer[] = []
  paper.on('data', (chunk: Buffer) => chunks.push(chunk))
  const ended = new Promise((resolve) => paper.on('end', resolve))

  paper.fillColor(INK).font('Helvetica-Bold').fontSize(18).text(`${rack.name}`, PAGE.margin, PAGE.margin)
  paper.font('Helvetica').fontSize(10).fillColor(PALE)
  paper.text(
    latin(
      `${site}, ${room} · ${rack.heightUnits} U, ${rack.freeUnits} free, the longest run ${rack.longestFree} U · ${made}`,
    ),
    PAGE.margin,
    PAGE.margin + 24,
  )
  const top = PAGE.margin + 56
  const unit = Math.min(11, 470 / rack.heightUnits)
  drawSide(paper, rack, { side: 'front', x: PAGE.margin + 16, top, unit })
  drawSide(paper, rack, { side: 'rear', x: PAGE.margin + 286, top, unit })
  drawTable(paper, rack, rows, top + rack.heightUnits * unit + 34)
  paper.end()
  await ended
  return Buffer.concat(chunks)
}

interface Where {
  readonly side: 'front' | 'rear'
  readonly x: number
  readonly top: number
  readonly unit: number
}

const WIDTH = 210

function drawSide(paper: PDFKit.PDFDocument, rack: RackView, { side, x, top, unit }: Where): void {
  paper
    .font('Helvetica-Bold')
    .fontSize(9)
    .fillColor(INK)
    .text(side, x, top - 13, { lineBreak: false })
  paper.font('Helvetica').fontSize(6).fillColor(PALE)
  for (let at = 1; at <= rack.heightUnits; at += 1) {
    const y = top + (rack.heightUnits - at) * unit
    if (at === 1 || at % 5 === 0)
      paper.text(String(at), x - 16, y + unit / 2 - 3, { width: 12, align: 'right', lineBreak: false })
    paper
      .moveTo(x, y)
      .lineTo(x + WIDTH, y)
      .lineWidth(0.3)
      .strokeColor('#e0e6e9')
      .stroke()
  }
  paper
    .rect(x, top, WIDTH, rack.heightUnits * unit)
    .lineWidth(1.2)
    .strokeColor(INK)
    .stroke()
  for (const gear of rack.gear) drawGear(paper, rack, gear, { side, x, top, unit })
}

function drawGear(
  paper: PDFKit.PDFDocument,
  rack: RackView,
  gear: MountedView,
  { side, x, top, unit }: Where,
): void {
  const y = top + (rack.heightUnits - gear.unit - gear.heightUnits + 1) * unit
  const tall = gear.heightUnits * unit
  if (gear.face === 'left' || gear.face === 'right') {
    if (side === 'front') return
    // From behind, left and right change places.
    const at = gear.face === 'left' ? x + WIDTH - 6 : x + 2
    paper.rect(at, y, 4, tall).lineWidth(0.6).strokeColor(PALE).stroke()
    return
  }
  const isSeen = gear.face === 'both' || gear.face === side
  const inset = side === 'rear' ? 9 : 2
  paper.rect(x + inset, y + 0.6, WIDTH - 2 * inset, tall - 1.2).lineWidth(0.7)
  if (!isSeen) {
    paper.dash(2, { space: 2 }).strokeColor(RULE).stroke().undash()
    return
  }
  paper.fillAndStroke('#eef2f3', PALE)
  paper
    .fillColor(INK)
    .font('Helvetica-Bold')
    .fontSize(Math.min(8, unit * 0.75))
    .text(latin(gear.name), x + inset + 5, y + tall / 2 - Math.min(8, unit * 0.75) / 2, {
      width: WIDTH - 14,
      height: 9,
      lineBreak: false,
      ellipsis: true,
    })
}

const COLUMNS = [
  ['Unit', 62],
  ['Name', 92],
  ['Model', 100],
  ['Serial', 82],
  ['Feeds', 92],
  ['Warranty', 60],
] as const

function drawTable(
  paper: PDFKit.PDFDocument,
  rack: RackView,
  rows: ReadonlyMap<number, InventoryRow>,
  top: number,
): void {
  let y = top
  const line = (cells: readonly string[], isHead: boolean): void => {
    if (y > PAGE.height - PAGE.margin - 14) {
      paper.addPage()
      y = PAGE.margin
    }
    paper
      .font(isHead ? 'Helvetica-Bold' : 'Helvetica')
      .fontSize(8)
      .fillColor(isHead ? PALE : INK)
    let x: number = PAGE.margin
    COLUMNS.forEach(([, width], index) => {
      paper.text(latin(cells[index] ?? ''), x, y, {
        width: width - 6,
        height: 10,
        lineBreak: false,
        ellipsis: true,
      })
      x += width
    })
    paper
      .moveTo(PAGE.margin, y + 11)
      .lineTo(PAGE.width - PAGE.margin, y + 11)
      .lineWidth(0.3)
      .strokeColor(RULE)
      .stroke()
    y += 15
  }
  line(
    COLUMNS.map(([head]) => head),
    true,
  )
  for (const gear of rack.gear) {
    const row = rows.get(gear.id)
    const where =
      gear.face === 'left' || gear.face === 'right'
        ? `${gear.face} side`
        : `${unitLabel(gear)}${gear.face === 'both' ? '' : ` ${gear.face}`}`
    line(
      [where, gear.name, row?.model ?? '', row?.serial ?? '', row?.feeds ?? '', row?.warrantyEnds ?? ''],
      false,
    )
  }
}

/** The fonts that every reader of PDF has know WinAnsi only; what is outside of it becomes a question mark. */
const latin = (text: string): string =>
  text.replaceAll('\u202f', ' ').replaceAll(/[^\u0020-\u007e\u00a0-\u00ff–—·…‘’“”]/g, '?')
