import Konva from 'konva'
import { boundsOf, rectangle, type Place } from '~~/core/acoustics'
import type { Area, Plan } from '~~/core/documents'
import { metresPerFoot, type LengthUnit } from '~~/core/units'

/** A level map: places (x, y, z of each in turn), half their cell along and across, and the level at each in dB. */
export interface LevelMap {
  places: Float32Array
  cells: Float32Array
  levels: Float32Array
  range: [low: number, high: number]
}

/** Where the plan's metres lie on the canvas. */
export interface PlanFrame {
  side: 'above' | 'beside'
  room: Plan['room']
  scale: number
  left: number
  top: number
}

export const ink = (name: string) => getComputedStyle(document.documentElement).getPropertyValue(name).trim()
export const toX = (f: PlanFrame, x: number) => f.left + x * f.scale
export const toY = (f: PlanFrame, p: Pick<Place, 'y' | 'z'>) =>
  f.top + (f.side === 'above' ? p.y : f.room.size.z - p.z) * f.scale
const across = (f: PlanFrame) => (f.side === 'above' ? f.room.size.y : f.room.size.z)
const flat = (f: PlanFrame, corners: readonly { x: number, y: number }[]) =>
  corners.flatMap(c => [toX(f, c.x), toY(f, { y: c.y, z: 0 })])

/** Level as lightness of the accent: even steps, so that edges read as contour lines. */
export function drawMap(f: PlanFrame, map: LevelMap): Konva.Image {
  const canvas = document.createElement('canvas')
  const [low, high] = map.range
  canvas.width = Math.ceil(f.room.size.x * f.scale)
  canvas.height = Math.ceil(f.room.size.y * f.scale)
  const context = canvas.getContext('2d')!
  context.fillStyle = ink('--accent')
  map.levels.forEach((level, n) => {
    const t = Math.max(0, Math.min(1, (level - low) / (high - low)))
    const w = map.cells[2 * n]! * f.scale
    const h = map.cells[2 * n + 1]! * f.scale
    context.globalAlpha = (Math.floor(t * 6) / 6) * 0.45
    context.fillRect(
      map.places[3 * n]! * f.scale - w / 2,
      map.places[3 * n + 1]! * f.scale - h / 2,
      w + 0.5,
      h + 0.5,
    )
  })
  return new Konva.Image({ image: canvas, x: f.left, y: f.top })
}

/** Grid, rulers and the room's walls. */
export function drawRoom(layer: Konva.Layer, f: PlanFrame, unit: LengthUnit) {
  const { x } = f.room.size
  const right = toX(f, x)
  const high = across(f)
  const bottom = f.top + high * f.scale
  const one = unit === 'm' ? 1 : metresPerFoot
  const step = [1, 2, 5, 10, 20, 50, 100, 200].find(s => s * one * f.scale > 46) ?? 500
  const text = (t: string, at: { x: number, y: number, align?: string, width?: number }) =>
    layer.add(
      new Konva.Text({
        text: t,
        fontSize: 11.5,
        fontFamily: 'Atkinson Hyperlegible Mono Variable',
        fill: ink('--ink-soft'),
        ...at,
      }),
    )
  for (let n = 0; n * one <= x + 1e-9; n += step) {
    const at = toX(f, n * one)
    layer.add(new Konva.Line({ points: [at, f.top, at, bottom], stroke: ink('--rule'), strokeWidth: 1 }))
    text(`${n} ${unit}`, { x: at - 24, y: bottom + 7, width: 48, align: 'center' })
  }
  for (let n = 0; n * one <= high + 1e-9; n += step) {
    const y = f.side === 'above' ? f.top + n * one * f.scale : bottom - n * one * f.scale
    layer.add(new Konva.Line({ points: [f.left, y, right, y], stroke: ink('--rule'), strokeWidth: 1 }))
    text(`${n}`, { x: 0, y: y - 6, width: f.left - 8, align: 'right' })
  }
  if (f.side === 'above')
    layer.add(
      new Konva.Line({
        points: flat(f, f.room.outline ?? rectangle(f.room.size.x, f.room.size.y)),
        closed: true,
        stroke: ink('--ink'),
        strokeWidth: 2,
      }),
    )
  else
    layer.add(
      new Konva.Rect({
        x: f.left,
        y: f.top,
        width: x * f.scale,
        height: high * f.scale,
        stroke: ink('--ink'),
        strokeWidth: 2,
      }),
    )
}

/**
 * An area from above as its outline, from the side as the line of its floor (a stage stands on the ground, a
 * balcony has a slab).
 */
export function areaShape(f: PlanFrame, area: Area, picked: boolean): Konva.Line {
  const stroke = ink(picked ? '--ink' : '--rule-strong')
  const width = picked ? 2.5 : 1.5
  if (f.side === 'above')
    return new Konva.Line({
      points: flat(f, area.outline),
      closed: true,
      stroke,
      strokeWidth: width,
      dash: area.kind === 'balcony' ? [7, 5] : [],
      ...(area.kind === 'stage' ? { fill: ink('--well') } : {}),
    })
  const [front, back] = boundsOf(area.outline).x
  const under = area.kind === 'stage' ? 0 : null
  const at = (x: number, z: number) => [toX(f, x), toY(f, { y: 0, z })]
  return new Konva.Line({
    points: [
      ...at(front, area.floor),
      ...at(back, area.rear),
      ...at(back, under ?? Math.max(0, area.rear - 0.3)),
      ...at(front, under ?? Math.max(0, area.floor - 0.3)),
    ],
    closed: true,
    stroke,
    strokeWidth: width,
    fill: ink(area.kind === 'stage' ? '--well' : '--rule'),
    hitStrokeWidth: 14,
  })
}

/** Letters of a name that is written whole in the plan. */
const longest = 22
const brief = (name: string) => (name.length > longest ? `${name.slice(0, longest - 1).trimEnd()}…` : name)

/**
 * Places names beside their things: to the right, or where nothing else is written or stands. Null where there is no
 * room for one that is not `strong`: names over one another can be read by nobody.
 */
export function createLabels(f: PlanFrame, width: number, things: readonly Place[]) {
  const floor = f.top + across(f) * f.scale
  const taken = things.map(p => ({ x: toX(f, p.x) - 8, y: toY(f, p), w: 16 }))
  return (name: string, at: Place, colour: string, strong: boolean) => {
    const node = new Konva.Text({
      text: strong ? name : brief(name),
      fontSize: 12.5,
      fontStyle: strong ? 'bold' : 'normal',
      fontFamily: 'Atkinson Hyperlegible Next Variable',
      fill: colour,
      listening: false,
      // the one that is picked may lie over others
      ...(strong ? { stroke: ink('--paper'), strokeWidth: 4, fillAfterStrokeEnabled: true } : {}),
    })
    const w = node.width()
    const x0 = toX(f, at.x)
    const y0 = toY(f, at)
    const spots = [
      [11, 0],
      [-w - 11, 0],
      [-w / 2, -17],
      [-w / 2, 17],
      [11, -15],
      [11, 15],
      [-w - 11, -15],
      [-w - 11, 15],
      [-w / 2, -31],
      [-w / 2, 31],
      [11, -29],
      [11, 29],
    ] as const
    const isFree = ([dx, dy]: readonly [number, number]) =>
      x0 + dx > f.left
      && x0 + dx + w < width
      && y0 + dy - 8 > 0
      && y0 + dy + 8 < floor
      && taken.every(t => Math.abs(t.y - (y0 + dy)) > 13 || x0 + dx > t.x + t.w || x0 + dx + w < t.x)
    const free = spots.find(isFree)
    if (!free && !strong) return null
    const [dx, dy] = free ?? spots[0]
    taken.push({ x: x0 + dx, y: y0 + dy, w })
    node.position({ x: dx, y: dy - 6 })
    return node
  }
}
