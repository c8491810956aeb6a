import { describe, expect, test } from 'vitest'
import type { SemanticModel } from '@/api/types'
import { planOf, rowMiddle, type PlanTable } from './plan'

function star(facts: number, dimensions: number): SemanticModel {
  const tables: Record<string, object> = { days: { calendar: {} } }
  const relationships: object[] = []
  const measures: object[] = []
  for (let fact = 0; fact < facts; fact += 1) {
    tables[`fact_${fact}`] = { file: `fact_${fact}.csv` }
    measures.push({ name: `m_${fact}`, caption: `M ${fact}`, table: `fact_${fact}`, aggregate: 'count' })
    relationships.push({
      from_table: `fact_${fact}`,
      from_column: 'day',
      to_table: 'days',
      to_column: 'date',
      role: 'day',
    })
  }
  for (let at = 0; at < dimensions; at += 1) {
    tables[`dim_${at}`] = { file: `dim_${at}.csv` }
    const from = at % 5 === 4 ? `dim_${at - 1}` : `fact_${at % facts}`
    relationships.push({
      from_table: from,
      from_column: `key_${at}`,
      to_table: `dim_${at}`,
      to_column: 'id',
      role: `dim_${at}`,
    })
  }
  return {
    dastan: 'model/1',
    name: 'm',
    caption: 'M',
    tables,
    relationships,
    dimensions: [],
    measures,
  } as unknown as SemanticModel
}

function overlap(one: PlanTable, other: PlanTable): boolean {
  return (
    one.x < other.x + other.width &&
    other.x < one.x + one.width &&
    one.y < other.y + other.height &&
    other.y < one.y + one.height
  )
}

describe('the plan', () => {
  test.each([
    [1, 2],
    [4, 12],
    [5, 54],
  ])('no two tables of %i facts and %i others cover each other', (facts, dimensions) => {
    const plan = planOf(star(facts, dimensions), null, 'columns', [])
    expect(plan.tables).toHaveLength(facts + dimensions + 1)
    for (const one of plan.tables)
      for (const other of plan.tables)
        if (one !== other) expect(overlap(one, other), `${one.name} ${other.name}`).toBe(false)
    for (const each of plan.tables) expect(Math.min(each.x, each.y)).toBeGreaterThanOrEqual(0)
  })

  test('facts stand between what describes them, calendars at the right, and what is led on to further out', () => {
    const plan = planOf(star(1, 5), null, 'columns', [])
    const at = (name: string) => plan.tables.find((each) => each.name === name)!.x
    const fact = at('fact_0')
    expect(at('days')).toBeGreaterThan(fact)
    expect([0, 1, 2, 3].some((each) => at(`dim_${each}`) < fact)).toBe(true)
    expect(Math.abs(at('dim_4') - fact)).toBeGreaterThan(Math.abs(at('dim_3') - fact))
  })

  test('a table stays where it was put, and its lines go there', () => {
    const plan = planOf(star(1, 2), null, 'columns', [{ table: 'days', x: 900, y: 500 }])
    const days = plan.tables.find((each) => each.name === 'days')!
    expect([days.x, days.y]).toEqual([900, 500])
    const line = plan.lines.find((each) => each.tie.to_table === 'days')!
    expect(line.path.endsWith(`900,${500 + rowMiddle(days, 'date')}`)).toBe(true)
  })

  test('only what is asked for is drawn', () => {
    const plan = planOf(star(2, 6), null, 'ties', [], new Set(['fact_0', 'days', 'dim_0']))
    expect(plan.tables.map((each) => each.name).sort()).toEqual(['days', 'dim_0', 'fact_0'])
    expect(plan.lines).toHaveLength(2)
  })

  test('columns that tie come first, and what is not drawn is counted', () => {
    const bench = {
      offers: [],
      refused: 0,
      ties: [],
      tables: [
        {
          name: 'fact_0',
          records: 3,
          trouble: '',
          columns: ['a', 'b', 'c', 'd', 'e', 'f', 'g', 'h', 'day', 'key_0'].map((name) => ({
            name,
            profile: null,
            trouble: '',
            first: [],
          })),
        },
      ],
    }
    const plan = planOf(star(1, 1), bench, 'columns', [])
    const fact = plan.tables.find((each) => each.name === 'fact_0')!
    expect(fact.columns.slice(0, 2)).toEqual(['day', 'key_0'])
    expect(fact.columns.length + fact.more).toBe(10)
    expect(planOf(star(1, 1), bench, 'names', []).tables.every((each) => !each.columns.length)).toBe(true)
  })
})
