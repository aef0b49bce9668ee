import { type FloorBox, type FloorView, type RoomView, spanOf } from '#core/site'

/** Around the walls, for the names of doors; px. */
export const PAD = 22

/** A box as it is drawn, in px. */
export interface Drawn {
  readonly x: number
  readonly y: number
  readonly w: number
  readonly h: number
}

/** A room fitted into a drawing: millimetres in, pixels out. */
export class PlanScale {
  readonly scale: number

  constructor(
    readonly room: RoomView,
    width: number,
    height: number,
  ) {
    this.scale = Math.min((width - 2 * PAD) / room.widthMm, (height - 2 * PAD) / room.depthMm)
  }

  get width(): number {
    return this.px(this.room.widthMm) + 2 * PAD
  }
  get height(): number {
    return this.px(this.room.depthMm) + 2 * PAD
  }

  /** A length. */
  px(mm: number): number {
    return mm * this.scale
  }
  /** A place, from the left or from above. */
  at(mm: number): number {
    return PAD + this.px(mm)
  }

  drawn(box: FloorBox): Drawn {
    const { acrossMm, downMm } = spanOf(box)
    return { x: this.at(box.xMm), y: this.at(box.yMm), w: this.px(acrossMm), h: this.px(downMm) }
  }

  /** The line along the front of a box, by where it looks. */
  frontLine(box: FloorBox): string {
    const { x, y, w, h } = this.drawn(box)
    switch (box.turn) {
      case 0:
        return `M${x} ${y}h${w}`
      case 90:
        return `M${x + w} ${y}v${h}`
      case 180:
        return `M${x} ${y + h}h${w}`
      case 270:
        return `M${x} ${y}v${h}`
      default:
        return box.turn satisfies never
    }
  }

  /** What a camera sees, roughly: a wedge towards the middle of the room. */
  viewOf(gear: FloorView): string {
    const { room } = this
    const [x, y] = [this.at(gear.xMm + gear.widthMm / 2), this.at(gear.yMm + gear.depthMm / 2)]
    const angle = Math.atan2(this.px(room.depthMm / 2 - gear.yMm), this.px(room.widthMm / 2 - gear.xMm))
    const corner = (turn: number): string =>
      `${x + 30 * Math.cos(angle + turn)} ${y + 30 * Math.sin(angle + turn)}`
    return `M${x} ${y}L${corner(-0.42)}A30 30 0 0 1 ${corner(0.42)}Z`
  }

  /** The way of a rope, of pairs of millimetres. */
  wayOf(way: readonly number[]): string {
    return Array.from(
      { length: way.length / 2 },
      (_, index) => `${index === 0 ? 'M' : 'L'}${this.at(way[2 * index]!)} ${this.at(way[2 * index + 1]!)}`,
    ).join('')
  }
}
