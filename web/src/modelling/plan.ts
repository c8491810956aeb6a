import dagre from '@dagrejs/dagre'
import type { BenchLook, Relationship, SemanticModel } from '@/api/types'
import { factsOf } from './words'

/** How much of each table is drawn: its columns, those alone that tie it, or its name. */
export type Depth = 'columns' | 'ties' | 'names'

export interface PlanTable {
  name: string
  isFact: boolean
  /** The columns that are drawn, in their order; those that tie it and its keys come first. */
  columns: string[]
  /** How many are not drawn. */
  more: number
  x: number
  y: number
  width: number
  height: number
}

export interface PlanLine {
  tie: Relationship
  path: string
  /** Where its role may be written. */
  at: { x: number; y: number; isLeft: boolean }
}

export interface Plan {
  tables: PlanTable[]
  lines: PlanLine[]
  width: number
  height: number
}

export interface Place {
  table: string
  x: number
  y: number
}

const HEAD = 30
export const ROW = 19
const FACT_WIDTH = 216
const WIDTH = 184
const FEW = 7
const GAP_X = 118
const GAP_Y = 26
const FACT_GAP_Y = 40
const EDGE = 28

/** The columns of a table that are drawn, and how many are not. */
function drawn(
  name: string,
  model: SemanticModel,
  bench: BenchLook | null,
  depth: Depth,
): { columns: string[]; more: number } {
  const ties = model.relationships ?? []
  const pointing = ties.filter((each) => each.from_table === name).map((each) => each.from_column)
  const keys = ties.filter((each) => each.to_table === name).map((each) => each.to_column)
  const first = [...new Set([...keys, ...pointing])]
  const all = bench?.tables.find((each) => each.name === name)?.columns.map((each) => each.name) ?? first
  const rest = all.filter((each) => !first.includes(each))
  if (depth === 'names') return { columns: [], more: 0 }
  if (depth === 'ties') return { columns: first, more: rest.length }
  const room = Math.max(FEW - first.length, model.tables[name]?.calendar ? 2 : 3)
  const shown = rest.length <= room + 1 ? rest : rest.slice(0, room)
  return { columns: [...first, ...shown], more: rest.length - shown.length }
}

/** How far a table is from the facts, to the left (below zero) or to the right. */
function ranks(
  names: readonly string[],
  facts: ReadonlySet<string>,
  ties: readonly Relationship[],
  model: SemanticModel,
): Map<string, number> {
  const found = new Map<string, number>()
  for (const each of names) if (facts.has(each)) found.set(each, 0)
  const weight = new Map<number, number>([
    [-1, 0],
    [1, 0],
  ])
  const around = (table: string) => ties.filter((each) => each.to_table === table && each.from_table !== table)
  let waiting = names.filter((each) => !facts.has(each))
  // Calendars stand at the right; the others where there is more room, those that many facts share first.
  waiting.sort(
    (one, other) =>
      Number(!!model.tables[other]?.calendar) - Number(!!model.tables[one]?.calendar) ||
      around(other).length - around(one).length,
  )
  while (waiting.length) {
    const next = waiting.find((each) => around(each).some((tie) => found.has(tie.from_table))) ?? waiting[0]!
    const from = around(next)
      .map((tie) => found.get(tie.from_table))
      .filter((each) => each !== undefined)
    const nearest = from.length ? from.reduce((best, each) => (Math.abs(each) > Math.abs(best) ? each : best)) : 0
    const isCalendar = !!model.tables[next]?.calendar
    const side = nearest !== 0 ? Math.sign(nearest) : isCalendar || weight.get(1)! < weight.get(-1)! ? 1 : -1
    found.set(next, nearest + side)
    weight.set(side, weight.get(side)! + 1)
    waiting = waiting.filter((each) => each !== next)
  }
  return found
}

/**
 * Where everything stands: facts in the middle, what describes them around, so that few lines cross. `kept` are places
 * that somebody chose. Where only some tables are to be seen, the others are left out.
 */
export function planOf(
  model: SemanticModel,
  bench: BenchLook | null,
  depth: Depth,
  kept: readonly Place[],
  only: ReadonlySet<string> | null = null,
): Plan {
  const names = Object.keys(model.tables).filter((each) => !only || only.has(each))
  const shown = new Set(names)
  const ties = (model.relationships ?? []).filter((each) => shown.has(each.from_table) && shown.has(each.to_table))
  const facts = new Set(factsOf(model))
  const rank = ranks(names, facts, ties, model)
  const tables = new Map<string, PlanTable>()
  for (const name of names) {
    const isFact = facts.has(name)
    const { columns, more } = drawn(name, model, bench, depth)
    const height = HEAD + (isFact && columns.length ? 8 : 0) + ROW * (columns.length + (more ? 1 : 0))
    tables.set(name, { name, isFact, columns, more, x: 0, y: 0, width: isFact ? FACT_WIDTH : WIDTH, height })
  }
  settle([...tables.values()], ties, rank)
  for (const each of kept) {
    const table = tables.get(each.table)
    if (table) Object.assign(table, { x: each.x, y: each.y })
  }
  const placed = [...tables.values()]
  const lines = ties.map((tie) => lineOf(tie, tables))
  return {
    tables: placed,
    lines,
    width: Math.max(...placed.map((each) => each.x + each.width), 0) + EDGE,
    height: Math.max(...placed.map((each) => each.y + each.height), 0) + EDGE,
  }
}

/** Gives each table its column by its rank, and in it the height at which its lines are short; the order of the facts is
 * the one in which the fewest lines cross. */
function settle(tables: PlanTable[], ties: readonly Relationship[], rank: ReadonlyMap<string, number>): void {
  const graph = new dagre.graphlib.Graph({ multigraph: true })
  graph.setGraph({ rankdir: 'LR', nodesep: GAP_Y, ranksep: GAP_X })
  graph.setDefaultEdgeLabel(() => ({}))
  for (const each of tables) graph.setNode(each.name, { width: each.width, height: each.height })
  for (const tie of ties) {
    const isLeft = rank.get(tie.to_table)! < rank.get(tie.from_table)!
    if (isLeft) graph.setEdge(tie.to_table, tie.from_table, {}, tie.role)
    else graph.setEdge(tie.from_table, tie.to_table, {}, tie.role)
  }
  dagre.layout(graph)
  const order = new Map(tables.map((each) => [each.name, graph.node(each.name).y]))
  const columns = new Map<number, PlanTable[]>()
  for (const each of tables) {
    const at = rank.get(each.name)!
    columns.set(at, [...(columns.get(at) ?? []), each])
  }
  // From the facts outwards: each further column stands as near as it can to what it is tied to.
  const placed = new Map<string, PlanTable>()
  const outwards = [...columns.keys()].sort((one, other) => Math.abs(one) - Math.abs(other) || one - other)
  for (const at of outwards) {
    const column = columns.get(at)!
    const wanted = new Map(
      column.map((each) => [
        each.name,
        at === 0 ? order.get(each.name)! : (nearest(each, ties, placed) ?? order.get(each.name)!),
      ]),
    )
    column.sort(
      (one, other) => wanted.get(one.name)! - wanted.get(other.name)! || order.get(one.name)! - order.get(other.name)!,
    )
    if (at === 0) stack(column)
    else
      spread(
        column,
        column.map((each) => wanted.get(each.name)! - each.height / 2),
      )
    for (const each of column) placed.set(each.name, each)
  }
  let x = EDGE
  for (const at of [...columns.keys()].sort((one, other) => one - other)) {
    const column = columns.get(at)!
    for (const each of column) each.x = x
    x += Math.max(...column.map((each) => each.width)) + GAP_X
  }
  const top = Math.min(...tables.map((each) => each.y))
  for (const each of tables) each.y = Math.round(each.y - top + EDGE)
}

/** The height at which a table's lines to what stands already are short. */
function nearest(
  table: PlanTable,
  ties: readonly Relationship[],
  placed: ReadonlyMap<string, PlanTable>,
): number | null {
  const ends: number[] = []
  for (const tie of ties) {
    const other =
      tie.to_table === table.name
        ? placed.get(tie.from_table)
        : tie.from_table === table.name
          ? placed.get(tie.to_table)
          : undefined
    if (other) ends.push(other.y + rowMiddle(other, tie.to_table === table.name ? tie.from_column : tie.to_column))
  }
  return ends.length ? ends.reduce((sum, each) => sum + each, 0) / ends.length : null
}

/** One below the other, as near as they may. */
function stack(column: readonly PlanTable[]): void {
  let y = 0
  for (const each of column) {
    each.y = y
    y += each.height + FACT_GAP_Y
  }
}

/** One below the other, each as near to where it is wanted as the others let it: those that meet move as one, to where
 * they are all nearest. */
function spread(column: readonly PlanTable[], wanted: readonly number[]): void {
  const blocks: { from: number; count: number; height: number; sum: number }[] = []
  column.forEach((table, at) => {
    blocks.push({ from: at, count: 1, height: table.height + GAP_Y, sum: wanted[at]! })
    for (let last = blocks.length - 1; last > 0; last -= 1) {
      const above = blocks[last - 1]!
      const below = blocks[last]!
      if (above.sum / above.count + above.height <= below.sum / below.count) break
      // What stands below in the block is wanted so much further up.
      blocks.splice(last - 1, 2, {
        from: above.from,
        count: above.count + below.count,
        height: above.height + below.height,
        sum: above.sum + below.sum - below.count * above.height,
      })
    }
  })
  for (const block of blocks) {
    let y = block.sum / block.count
    for (const table of column.slice(block.from, block.from + block.count)) {
      table.y = y
      y += table.height + GAP_Y
    }
  }
}

/** Where a column's line begins, from the top of its table; where the columns end where it is not drawn. */
export function rowMiddle(table: PlanTable, column: string): number {
  const at = table.columns.indexOf(column)
  const head = HEAD + (table.isFact && table.columns.length ? 8 : 0)
  if (at >= 0) return head + ROW * at + ROW / 2
  return table.columns.length || table.more ? table.height - ROW / 2 : HEAD / 2
}

export function lineOf(tie: Relationship, tables: ReadonlyMap<string, PlanTable>): PlanLine {
  const from = tables.get(tie.from_table)!
  const to = tables.get(tie.to_table)!
  const y1 = from.y + rowMiddle(from, tie.from_column)
  const y2 = to.y + rowMiddle(to, tie.to_column)
  // From the sides that face each other; out and back on one side where they stand above each other.
  const isRight = to.x >= from.x + from.width
  const isLeft = to.x + to.width <= from.x
  const x1 = isLeft || (!isRight && to.x < from.x) ? from.x : from.x + from.width
  const x2 = isRight ? to.x : isLeft ? to.x + to.width : x1 === from.x ? to.x : to.x + to.width
  const bend = Math.max(Math.abs(x2 - x1) / 2, 44)
  const out1 = x1 === from.x ? x1 - bend : x1 + bend
  const out2 = x2 === to.x ? x2 - bend : x2 + bend
  return {
    tie,
    path: `M${x1},${y1} C${out1},${y1} ${out2},${y2} ${x2},${y2}`,
    at: { x: x1 + (x1 === from.x ? -8 : 8), y: y1 - 5, isLeft: x1 === from.x },
  }
}
