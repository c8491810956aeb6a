import { IN_PART } from '../table/labels'
import type { EChartsCoreOption } from 'echarts/core'
import type { ChartData, ChartHeader, ShownMeasure } from '@/api/types'
import { numberOf, numberWriter, type Value } from '../table/format'
import { footRoom, groupAxis, labelsOf, leans, memberIn } from './axisLabels'
import { heat, heatScale } from './heat'

/** What the drawing takes from the page. */
export interface Ink {
  ink: string
  soft: string
  rule: string
  paper: string
  selected: string
  series: readonly string[]
}

/** Where a mark stands in the chart's data. */
export interface Mark {
  panel: number
  category: number
  series: number
}

export interface Panel {
  measure: ShownMeasure
  panel: number
  caption: string
  places: number[]
}

const SYMBOLS = ['circle', 'rect', 'triangle', 'diamond', 'emptyCircle', 'emptyRect', 'emptyTriangle', 'emptyDiamond']
const DASHES = ['solid', 'dashed', 'dotted'] as const
const LEGEND_ROOM = 30
const HEAD_ROOM = 26
const LEFT_ROOM = 72
const RIGHT_ROOM = 18
const POINTS_FOOT_ROOM = 46
const HEAT_LEFT_ROOM = 150
const RING_NAMES = 150
const LETTER_WIDTH = 6
// By its name, for the drawing library measures its texts itself.
const FONT = "'Source Sans 3 Variable', sans-serif"

/** Whether it is a period that the data begins or ends inside of. */
function isInPart(header: ChartHeader | undefined): boolean {
  return header?.members.some((each) => each.is_part_filled) ?? false
}

export function pathOf(header: ChartHeader | undefined): string {
  return `${header?.captions.join(' › ') ?? ''}${isInPart(header) ? IN_PART : ''}`
}

/** The members that it stands in, without the measure that a series may be of. */
function membersOf(header: ChartHeader | undefined): string {
  const isOfMeasure = typeof header?.measure === 'number'
  return pathOf(header && isOfMeasure ? { ...header, captions: header.captions.slice(1) } : header)
}

/** Whether several measures stand on one scale, as series. */
export function isJoined(data: ChartData): boolean {
  return typeof data.series[0]?.measure === 'number'
}

/** The panels: one for each measure, and one for each outermost member where small charts are wanted. */
export function panelsOf(data: ChartData, measures: readonly ShownMeasure[], multiples: boolean): Panel[] {
  const all = data.categories.map((_, at) => at)
  const canSplit = multiples && data.categories.some((each) => each.captions.length > 1)
  const groups = canSplit ? [...new Set(data.categories.map((each) => each.captions[0] ?? ''))] : ['']
  const drawn = data.form === 'points' ? data.panels.slice(0, 1) : data.panels
  return drawn.flatMap(({ measure }, panel) =>
    groups.map((group) => ({
      measure: measures[measure]!,
      panel,
      // Points name their measures on the axes.
      caption: [
        group,
        data.form !== 'points' && (drawn.length > 1 || !canSplit)
          ? isJoined(data)
            ? measures[measure]!.unit
            : withUnit(measures[measure]!)
          : '',
      ]
        .filter(Boolean)
        .join(' · '),
      places: canSplit ? all.filter((at) => data.categories[at]?.captions[0] === group) : all,
    })),
  )
}

function withUnit(measure: ShownMeasure): string {
  return measure.unit ? `${measure.caption} (${measure.unit})` : measure.caption
}

/** The measure of a mark: its series' own where several stand on one scale. */
export function measureOf(
  data: ChartData,
  measures: readonly ShownMeasure[],
  mark: Omit<Mark, 'category'>,
): ShownMeasure | undefined {
  return measures[data.series[mark.series]?.measure ?? data.panels[mark.panel]?.measure ?? 0]
}

/** What a screen reader hears of a mark, and a pointer is shown: the full path and the exact number. */
export function markWords(data: ChartData, measures: readonly ShownMeasure[], mark: Mark): string[] {
  const where = [data.categories[mark.category], data.series[mark.series]].filter(
    (each) => each?.members.length || each?.is_others,
  )
  const path = where.map(membersOf).filter(Boolean).join(' · ')
  const panels = data.form === 'points' ? [...data.panels.keys()] : data.panels[mark.panel] ? [mark.panel] : []
  return [
    path,
    ...panels.map((panel) =>
      written(
        measureOf(data, measures, { panel, series: mark.series }),
        data.panels[panel]?.values[mark.series]?.[mark.category],
      ),
    ),
  ]
}

function written(measure: ShownMeasure | undefined, value: Value): string {
  if (!measure) return ''
  return `${measure.caption}: ${numberWriter(measure.format)(value) || 'empty'}${measure.unit ? ` ${measure.unit}` : ''}`
}

function escaped(text: string): string {
  return text.replace(/[&<>"']/g, (letter) => `&#${letter.charCodeAt(0)};`)
}

/** The drawing as the library takes it. Series are named by panel and place, so that a click leads back to its mark. */
export function optionOf(
  asked: ChartData,
  measures: readonly ShownMeasure[],
  multiples: boolean,
  ink: Ink,
  size: { width: number; height: number },
  picked: ReadonlySet<number>,
): EChartsCoreOption {
  const data = asWritten(asked, measures)
  const panels = panelsOf(data, measures, multiples)
  const hasLegend = data.form === 'ring' ? false : data.series.length > 1 && data.form !== 'heat'
  const isBeside = multiples || data.form === 'ring'
  const leftRoom = data.form === 'heat' && !isBeside ? Math.min(HEAT_LEFT_ROOM, size.width / 4) : LEFT_ROOM
  const isSplit = panels.length > data.panels.length
  const isPoints = data.form === 'points'
  // What small charts are headed by is not said below them again.
  const first = isSplit ? 1 : 0
  const hasGroups = !isPoints && data.categories.some((each) => each.captions.length > first + 1)
  const across = acrossOf(panels.length, isBeside, size)
  const foot = isPoints
    ? POINTS_FOOT_ROOM
    : footRoom(
        panels.some((each) => leans(data, each.places, size.width / across - leftRoom - RIGHT_ROOM)),
        hasGroups,
      )
  const boxes = boxesOf(panels.length, across, size, hasLegend ? LEGEND_ROOM : 4, leftRoom, foot)
  const text = { color: ink.soft, fontFamily: FONT, fontSize: 11 }
  const shared = {
    animation: !window.matchMedia('(prefers-reduced-motion: reduce)').matches,
    animationDuration: 120,
    animationDurationUpdate: 120,
    textStyle: { fontFamily: FONT },
    color: [...ink.series],
    // Patterns tell series apart for eyes that do not tell the colours apart.
    aria: {
      enabled: true,
      label: { enabled: false },
      decal: { show: data.series.length > 1 && ['bars', 'stacked', 'shares', 'areas'].includes(data.form) },
    },
    legend: hasLegend
      ? {
          type: 'scroll',
          top: 2,
          left: 8,
          right: 8,
          itemWidth: 16,
          itemHeight: 10,
          textStyle: { ...text, color: ink.ink },
          formatter: (name: string) => pathOf(data.series[Number(name)]),
          data: data.series.map((_, at) => String(at)),
          selectedMode: false,
          pageTextStyle: text,
        }
      : undefined,
    title: panels.map((panel, at) => ({
      text: panel.caption,
      left: boxes[at]!.left - 4,
      top: boxes[at]!.top - 22,
      textStyle: { fontSize: 12, fontWeight: 600, color: ink.ink },
    })),
    tooltip: {
      trigger: 'item',
      confine: true,
      backgroundColor: ink.paper,
      borderColor: ink.rule,
      textStyle: { color: ink.ink, fontSize: 12 },
      formatter: (found: Pointed) => {
        const mark = markOf(data, panels, found)
        if (!mark) return ''
        const [path, ...lines] = markWords(asked, measures, mark)
        return [`<b>${escaped(path ?? '')}</b>`, ...lines.map(escaped)].join('<br>')
      },
    },
  }
  if (data.form === 'ring')
    return { ...shared, series: panels.map((panel, at) => ring(data, panel, at, boxes[at]!, ink, picked)) }
  const groups = isPoints
    ? []
    : panels.flatMap((panel, at) => groupAxis(data, panel.places, boxes[at]!.width, first, at, ink) ?? [])
  const second = measures[data.panels[1]?.measure ?? 0]
  return {
    ...shared,
    grid: boxes.map((box) => ({ left: box.left, top: box.top, width: box.width, height: box.height })),
    xAxis: [
      ...panels.map((panel, at) =>
        isPoints
          ? {
              gridIndex: at,
              type: 'value',
              scale: true,
              name: withUnit(panel.measure),
              nameLocation: 'middle',
              nameGap: 26,
              nameTextStyle: text,
              axisLabel: { ...text, formatter: shortNumber },
              splitLine: { lineStyle: { color: ink.rule, width: 0.6 } },
            }
          : {
              gridIndex: at,
              type: 'category',
              data: panel.places.map(String),
              axisLine: { lineStyle: { color: ink.ink } },
              axisTick: { show: false },
              axisLabel: { ...text, color: ink.ink, ...labelsOf(data, panel.places, boxes[at]!.width) },
            },
      ),
      ...groups,
    ],
    yAxis: panels.map((_, at) =>
      data.form === 'heat'
        ? {
            gridIndex: at,
            type: 'category',
            inverse: true,
            data: data.series.map((_, place) => String(place)),
            axisLine: { show: false },
            axisTick: { show: false },
            axisLabel: {
              ...text,
              formatter: (name: string) => memberIn(data.series[Number(name)], leftRoom / LETTER_WIDTH),
            },
          }
        : {
            gridIndex: at,
            type: 'value',
            scale: isPoints,
            ...rangeOf(data, panels, at),
            name: isPoints && second ? withUnit(second) : '',
            nameTextStyle: { ...text, align: 'left' },
            axisLabel: {
              ...text,
              formatter: (value: number) => (data.form === 'shares' ? `${value} %` : shortNumber(value)),
            },
            splitLine: { lineStyle: { color: ink.rule, width: 0.6 } },
          },
    ),
    visualMap:
      data.form === 'heat' ? panels.map((panel, at) => heatScale(data, panel, at, boxes[at]!, ink)) : undefined,
    series: panels.flatMap((panel, at): object[] =>
      data.form === 'heat'
        ? [heat(data, panel, at, ink)]
        : data.series.map((_, series) => line(data, panel, at, series, ink, picked)),
    ),
  }
}

/** The numbers as they are written in the table: in thousands, with the sign turned, in per cent. */
function asWritten(data: ChartData, measures: readonly ShownMeasure[]): ChartData {
  const panels = data.panels.map((panel) => {
    const factor = measures[panel.measure]?.format.factor ?? 1
    return {
      ...panel,
      values: panel.values.map((line) =>
        line.map((value) => (numberOf(value) === null ? null : Number(value) * factor)),
      ),
    }
  })
  return { ...data, panels }
}

/** What the drawing library tells of what is pointed at: a series and a place in it; or what stands apart from its line. */
export interface Pointed {
  seriesId?: string
  dataIndex: number
  componentType?: string
  data?: unknown
}

/** The mark that is pointed at. */
export function markOf(data: ChartData, panels: readonly Panel[], found: Pointed): Mark | null {
  const [at, series] = (found.seriesId ?? '').split('-').map(Number)
  const panel = panels[at ?? -1]
  if (!panel || series === undefined) return null
  if (data.form === 'heat') {
    const width = panel.places.length
    return {
      panel: panel.panel,
      category: panel.places[found.dataIndex % width] ?? 0,
      series: Math.floor(found.dataIndex / width),
    }
  }
  const category = found.componentType === 'markPoint' ? (found.data as Apart).place : panel.places[found.dataIndex]
  return { panel: panel.panel, category: category ?? 0, series }
}

/** A period in part: it stands by itself, hollow, beside the line that would fall to it. */
interface Apart {
  place: number
  coord: [number, number]
}

function apartFrom(data: ChartData, panel: Panel, series: number): Apart[] {
  const lines = data.panels[panel.panel]?.values ?? []
  // In areas it stands as high as the areas would: on those below.
  const below = data.form === 'areas' ? lines.slice(0, series) : []
  return panel.places.flatMap((place, index) => {
    const value = numberOf(lines[series]?.[place])
    if (value === null || !isInPart(data.categories[place])) return []
    return [
      {
        place,
        coord: [index, below.reduce((sum, each) => sum + (numberOf(each[place]) ?? 0), value)] as [number, number],
      },
    ]
  })
}

function line(data: ChartData, panel: Panel, at: number, series: number, ink: Ink, picked: ReadonlySet<number>) {
  const values = data.panels[panel.panel]?.values[series] ?? []
  const isLine = data.form === 'lines' || data.form === 'areas'
  const totals = data.form === 'shares' ? sums(data, panel) : null
  const others = data.panels[1]?.values[series] ?? []
  const points = panel.places.map((place) => {
    const value = numberOf(values[place])
    const share = totals && value !== null && totals.get(place) ? (100 * value) / totals.get(place)! : null
    const itemStyle = picked.has(place) ? { borderColor: ink.selected, borderWidth: 2 } : undefined
    if (data.form === 'points') return { value: [value, numberOf(others[place])], itemStyle }
    // A line does not fall to what is filled in part, and a bar of it is pale.
    const inPart = isInPart(data.categories[place])
    if (inPart && isLine) return { value: null, itemStyle }
    return { value: totals ? share : value, itemStyle: inPart ? { ...itemStyle, opacity: 0.45 } : itemStyle }
  })
  const apart = isLine ? apartFrom(data, panel, series) : []
  const isStacked = data.form === 'stacked' || data.form === 'shares' || data.form === 'areas'
  return {
    id: `${at}-${series}`,
    name: String(series),
    type: data.form === 'points' ? 'scatter' : isLine ? 'line' : 'bar',
    xAxisIndex: at,
    yAxisIndex: at,
    data: points,
    stack: isStacked ? `stack-${at}` : undefined,
    areaStyle: data.form === 'areas' ? { opacity: 0.75 } : undefined,
    markPoint: apart.length
      ? {
          data: apart,
          symbol: 'circle',
          symbolSize: 7,
          label: { show: false },
          itemStyle: { color: 'transparent', borderWidth: 1.5, borderColor: ink.series[series % ink.series.length] },
        }
      : undefined,
    symbol: SYMBOLS[series % SYMBOLS.length],
    symbolSize: data.form === 'points' ? 11 : panel.places.length > 80 ? 0 : 6,
    showAllSymbol: true,
    lineStyle: { width: 2, type: DASHES[Math.floor(series / ink.series.length) % DASHES.length] },
    barMaxWidth: 46,
    barGap: '8%',
    emphasis: { focus: 'none' },
    labelLayout: { hideOverlap: true },
    label:
      data.form === 'points' && panel.places.length * data.series.length <= 24
        ? {
            show: true,
            position: 'right',
            color: ink.ink,
            fontSize: 11,
            formatter: ({ dataIndex }: { dataIndex: number }) =>
              data.categories[panel.places[dataIndex] ?? 0]?.captions.at(-1) ?? '',
          }
        : undefined,
  }
}

/** What each category comes to over all series; without regard to sign, so that shares never leave the frame. */
function sums(data: ChartData, panel: Panel): Map<number, number> {
  const values = data.panels[panel.panel]?.values ?? []
  return new Map(
    panel.places.map((place) => [place, values.reduce((sum, each) => sum + Math.abs(numberOf(each[place]) ?? 0), 0)]),
  )
}

/** The ends of a panel's scale: the same for all small charts of one measure, so that their heights can be compared. */
function rangeOf(data: ChartData, panels: readonly Panel[], at: number): { min?: number; max?: number } {
  if (data.form === 'shares') return { max: 100 }
  if (data.form === 'points' || panels.length === data.panels.length) return {}
  const isStacked = data.form === 'stacked' || data.form === 'areas'
  const values = data.panels[panels[at]!.panel]?.values ?? []
  const heights = data.categories.flatMap((_, place) => {
    const own = values.map((each) => numberOf(each[place]) ?? 0)
    return isStacked
      ? [
          own.filter((each) => each > 0).reduce((sum, each) => sum + each, 0),
          own.filter((each) => each < 0).reduce((sum, each) => sum + each, 0),
        ]
      : own
  })
  return { min: -roundedUp(-Math.min(0, ...heights)), max: roundedUp(Math.max(0, ...heights)) }
}

/** The next number that an axis ends at well. */
function roundedUp(value: number): number {
  if (value <= 0) return 0
  const step = 10 ** Math.floor(Math.log10(value)) / 2
  return Math.ceil(value / step) * step
}

function ring(data: ChartData, panel: Panel, at: number, box: Box, ink: Ink, picked: ReadonlySet<number>) {
  const values = data.panels[panel.panel]?.values[0] ?? []
  // As wide as leaves room for the names on both sides.
  const width = box.width + LEFT_ROOM
  const outer = Math.max(Math.min(box.height * 0.4, width / 2 - RING_NAMES), 40)
  return {
    id: `${at}-0`,
    type: 'pie',
    radius: [outer * 0.58, outer],
    left: box.left - LEFT_ROOM,
    top: box.top,
    width,
    height: box.height,
    itemStyle: { borderColor: ink.paper, borderWidth: 1 },
    label: {
      color: ink.ink,
      fontSize: 12,
      lineHeight: 15,
      formatter: ({ dataIndex, percent }: { dataIndex: number; percent: number }) =>
        `${pathOf(data.categories[panel.places[dataIndex] ?? 0])}\n${percent.toFixed(1)} %`,
    },
    data: panel.places.map((place) => ({
      value: Math.max(numberOf(values[place]) ?? 0, 0),
      name: pathOf(data.categories[place]),
      selected: picked.has(place),
    })),
    selectedMode: 'multiple',
  }
}

export interface Box {
  left: number
  top: number
  width: number
  height: number
}

/** How many panels stand beside each other: one below the other; small charts side by side. */
function acrossOf(count: number, isBeside: boolean, size: { width: number; height: number }): number {
  return isBeside
    ? Math.max(1, Math.min(count, Math.ceil(Math.sqrt((count * size.width) / Math.max(size.height, 1)))))
    : 1
}

function boxesOf(
  count: number,
  across: number,
  size: { width: number; height: number },
  top: number,
  leftRoom: number,
  foot: number,
): Box[] {
  const down = Math.ceil(count / across)
  const width = size.width / across
  const height = (size.height - top) / down
  return Array.from({ length: count }, (_, at) => ({
    left: (at % across) * width + leftRoom,
    top: top + Math.floor(at / across) * height + HEAD_ROOM,
    width: Math.max(40, width - leftRoom - RIGHT_ROOM),
    height: Math.max(30, height - HEAD_ROOM - foot),
  }))
}

const few = new Intl.NumberFormat('en-GB', { notation: 'compact', maximumFractionDigits: 1 })
export function shortNumber(value: number): string {
  return few.format(value).replace('-', '−')
}
