import { describe, expect, it } from 'vitest'
import type { NumberFormat } from '@/api/types'
import { exactFigure, numberOf, numberWriter } from './format'

const PLAIN: NumberFormat = {
  prefix: '',
  suffix: '',
  negative_prefix: '-',
  negative_suffix: '',
  least_fraction: 0,
  most_fraction: 0,
  is_grouped: true,
  factor: 1,
}
const MONEY: NumberFormat = {
  ...PLAIN,
  least_fraction: 2,
  most_fraction: 2,
  negative_prefix: '(',
  negative_suffix: ')',
}
const PERCENT: NumberFormat = {
  ...PLAIN,
  least_fraction: 1,
  most_fraction: 1,
  suffix: ' %',
  negative_suffix: ' %',
  factor: 100,
}

describe('numbers as they are written', () => {
  it('loses no digit of what is sent as text', () => {
    expect(numberWriter({ ...PLAIN, most_fraction: 2 })('9007199254740993.25')).toBe('9,007,199,254,740,993.25')
  })

  it('leaves an empty cell blank and never a zero', () => {
    expect([null, undefined].map(numberWriter(PLAIN))).toEqual(['', ''])
    expect(numberOf(null)).toBeNull()
    expect(numberWriter(PLAIN)(0)).toBe('0')
  })

  it('writes a minus sign below zero, but not before what rounds to nothing', () => {
    expect([-1234, -0.4].map(numberWriter(PLAIN))).toEqual(['−1,234', '0'])
  })

  it('keeps digits below digits where negatives stand in brackets', () => {
    expect(numberWriter(MONEY)('-1250.5')).toBe('(1,250.50)')
    expect(numberWriter(MONEY)('1250.5')).toBe('1,250.50\u2004')
  })

  it('turns signs and shares', () => {
    expect(numberWriter({ ...PLAIN, factor: -1 })('12')).toBe('−12')
    expect(numberWriter(PERCENT)(0.1249)).toBe('12.5 %')
  })
})

describe('all the digits of a number', () => {
  it('are told where some are left out, and not where none is', () => {
    expect(exactFigure(PLAIN, '1234.56', '1,235')).toBe('1,234.56')
    expect(exactFigure(MONEY, '1250.5', '1,250.50')).toBe('')
  })
})
