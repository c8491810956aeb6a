import type { ChartData } from '@/api/types'
import { numberOf } from '../table/format'
import { shortNumber, type Box, type Ink, type Panel } from './option'

const SCALE_WIDTH = 150

interface Scale {
  least: number
  most: number
  /** From the least to the greatest, at equal distances. */
  colours: string[]
}

/** What the shades of a panel mean. On both sides of zero each side has a colour of its own, as deep as it is far away. */
function scaleOf(data: ChartData, panel: Panel, ink: Ink): Scale {
  const all = (data.panels[panel.panel]?.values ?? [])
    .flat()
    .map(numberOf)
    .filter((each) => each !== null)
  const [low, high] = [Math.min(0, ...all), Math.max(0, ...all)]
  const [deep, deepest] = [ink.series[1]!, ink.series[0]!]
  if (low < 0 && high > 0) {
    const far = Math.max(-low, high)
    return { least: -far, most: far, colours: [deep, ink.paper, deepest] }
  }
  return low < 0
    ? { least: low, most: 0, colours: [deepest, deep, ink.paper] }
    : { least: 0, most: high || 1, colours: [ink.paper, deep, deepest] }
}

export function heat(data: ChartData, panel: Panel, at: number, ink: Ink) {
  const values = data.panels[panel.panel]?.values ?? []
  const scale = scaleOf(data, panel, ink)
  return {
    id: `${at}-0`,
    type: 'heatmap',
    xAxisIndex: at,
    yAxisIndex: at,
    data: values.flatMap((own, series) =>
      panel.places.map((place, column) => {
        const value = numberOf(own[place])
        return {
          value: [column, series, value ?? '-'],
          label: value === null ? undefined : { color: legible(value, scale, ink) },
        }
      }),
    ),
    itemStyle: { borderColor: ink.paper, borderWidth: 1 },
    label: {
      show: panel.places.length <= 14 && values.length <= 24,
      fontSize: 10,
      formatter: ({ value: [, , cell] }: { value: [number, number, number | '-'] }) =>
        cell === '-' ? '' : shortNumber(cell),
    },
  }
}

export function heatScale(data: ChartData, panel: Panel, at: number, box: Box, ink: Ink) {
  const { least, most, colours } = scaleOf(data, panel, ink)
  return {
    type: 'continuous',
    seriesIndex: at,
    min: least,
    max: most,
    text: [shortNumber(most), shortNumber(least)],
    calculable: false,
    orient: 'horizontal',
    left: box.left + box.width - SCALE_WIDTH,
    top: box.top - 31,
    itemHeight: 70,
    itemWidth: 9,
    textStyle: { color: ink.soft, fontSize: 11 },
    inRange: { color: colours },
  }
}

/** The colour, ink or paper, in which a number is read best on its shade. */
function legible(value: number, { least, most, colours }: Scale, ink: Ink): string {
  const place = ((value - least) / (most - least)) * (colours.length - 1)
  const from = Math.min(Math.floor(place), colours.length - 2)
  const [one, other] = [channels(colours[from]!), channels(colours[from + 1]!)]
  const shade = lightness(one.map((each, at) => each + (other[at]! - each) * (place - from)))
  return contrast(shade, lightness(channels(ink.ink))) >= contrast(shade, lightness(channels(ink.paper)))
    ? ink.ink
    : ink.paper
}

function channels(colour: string): number[] {
  return [1, 3, 5].map((at) => parseInt(colour.slice(at, at + 2), 16) / 255)
}

/** Relative luminance and contrast as WCAG 2.2 defines them. */
function lightness(parts: readonly number[]): number {
  const [red, green, blue] = parts.map((each) => (each <= 0.04045 ? each / 12.92 : ((each + 0.055) / 1.055) ** 2.4))
  return 0.2126 * red! + 0.7152 * green! + 0.0722 * blue!
}

function contrast(one: number, other: number): number {
  return (Math.max(one, other) + 0.05) / (Math.min(one, other) + 0.05)
}
