import { HighlightStyle, StreamLanguage, syntaxHighlighting, type StreamParser } from '@codemirror/language'
import { tags } from '@lezer/highlight'

const WORDS = new Set(
  (
    'only everywhere over all the whole row column what it its stands in period periods year years to date before at within same part of along running total moving average sum ' +
    'count least greatest down rows across columns among each group rank index cumulative share case when then else end and or not is null between like'
  ).split(' '),
)

const parser: StreamParser<null> = {
  startState: () => null,
  token(stream) {
    if (stream.eatSpace()) return null
    if (stream.match(/^--.*/)) return 'comment'
    if (stream.match(/^"([^"]|"")*"?/)) return 'variableName'
    if (stream.match(/^'([^']|'')*'?/)) return 'string'
    if (stream.match(/^\d+(\.\d+)?/)) return 'number'
    const word = stream.match(/^[\p{L}_][\p{L}\p{N}_]*/u)
    if (Array.isArray(word)) return WORDS.has((word[0] ?? '').toLowerCase()) ? 'keyword' : 'variableName'
    stream.next()
    return 'operator'
  },
}

/** How a formula is coloured: words stand out, names are underlined, texts have the colour of what is there. */
const style = HighlightStyle.define([
  { tag: tags.keyword, fontWeight: '600' },
  { tag: tags.variableName, textDecoration: 'underline 1px rgb(var(--v-theme-saffron))', textUnderlineOffset: '3px' },
  { tag: tags.string, color: 'rgb(var(--v-theme-success))' },
  { tag: tags.comment, color: 'rgb(var(--v-theme-soft))', fontStyle: 'italic' },
])

export const formulaLanguage = [StreamLanguage.define(parser), syntaxHighlighting(style)]
