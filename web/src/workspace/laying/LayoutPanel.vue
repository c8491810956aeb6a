<script setup lang="ts">
// A statement laid out by hand, at the right while the table stays in sight.
import { useDebounceFn } from '@vueuse/core'
import { computed, nextTick, ref, shallowRef } from 'vue'
import { POST, body } from '@/api/client'
import type { DraftedLayout, LayoutRow } from '@/api/types'
import { useProblem } from '@/shell/problem'
import { useWorkspace } from '../store'
import { useThingMenu } from '../thingMenu'
import LayoutLine from './LayoutLine.vue'
import { useLaying } from './laying'

const READ_AFTER = 250
const KINDS = [
  { kind: 'members', words: 'Members' },
  { kind: 'formula', words: 'Formula' },
  { kind: 'heading', words: 'Heading' },
  { kind: 'blank', words: 'Blank line' },
] as const
const laying = useLaying()
const workspace = useWorkspace()
const problem = useProblem()
const menu = useThingMenu()
const begun = laying.begun!
const isChange = begun.made.name !== ''
const caption = ref(begun.made.caption)
const rows = ref<LayoutRow[]>([...begun.made.layout.rows])
const texts = ref<string[]>([...begun.texts])
const faults = shallowRef(begun.faults)
/** Rows whose text stands as it was read, and follows what the rows in it are called. */
const settled = ref<boolean[]>(begun.texts.map(() => true))
/** The row that somebody is at; none at first, so that rows are added at the end. */
const active = ref(-1)
const list = ref<HTMLElement | null>(null)
let asked = 0

const faultOf = computed(() => new Map(faults.value.map((each) => [each.row ?? -1, `${each.message} ${each.hint}`])))
const isReady = computed(() => caption.value.trim() !== '' && !faults.value.length)
const made = computed<DraftedLayout['made']>(() => ({
  ...begun.made,
  caption: caption.value.trim(),
  layout: { ...begun.made.layout, rows: rows.value },
}))

async function readNow(): Promise<void> {
  const document = workspace.document
  const mine = ++asked
  if (!document) return
  const path = { model: document.model }
  const written = texts.value.map((text, at) => (settled.value[at] ? null : text))
  try {
    const found = await body(
      POST('/api/models/{model}/layouts/read', {
        params: { path },
        body: { document, made: made.value, texts: written },
      }),
    )
    if (mine !== asked) return
    rows.value = [...found.made.layout.rows]
    texts.value = [...found.texts]
    faults.value = found.faults
    const wrong = new Set(found.faults.map((each) => each.row))
    settled.value = found.texts.map((_, at) => !wrong.has(at) && at !== active.value)
  } catch (error) {
    if (mine === asked) problem.tell(error)
  }
}

const readLater = useDebounceFn(readNow, READ_AFTER)

/** Reads it again; an answer to how it stood before this is of no use any more. */
function readSoon(): void {
  asked += 1
  void readLater()
}

function write(at: number, text: string): void {
  texts.value[at] = text
  settled.value[at] = false
  readSoon()
}

function change(at: number, to: Partial<LayoutRow>): void {
  rows.value[at] = { ...rows.value[at]!, ...to }
  readSoon()
}

async function focusOn(at: number): Promise<void> {
  active.value = Math.min(Math.max(at, 0), rows.value.length - 1)
  await nextTick()
  const line = list.value?.querySelectorAll<HTMLElement>('[data-row]')[active.value]
  line?.querySelector<HTMLElement>('input, button')?.focus()
  line?.scrollIntoView({ block: 'nearest' })
}

function add(kind: LayoutRow['kind']): void {
  const at = active.value < 0 ? rows.value.length : Math.min(active.value + 1, rows.value.length)
  const names = new Set(rows.value.map((each) => each.name))
  let number = rows.value.length + 1
  while (names.has(`row_${number}`)) number += 1
  const beside = rows.value[at - 1]
  const row: LayoutRow = {
    name: `row_${number}`,
    kind,
    caption: '',
    members: [],
    ranges: [],
    formula: null,
    is_turned: false,
    indent: kind === 'members' ? (beside?.indent ?? 0) : 0,
    is_strong: kind === 'formula',
    rule_above: kind === 'formula' ? 'single' : 'none',
    rule_below: 'none',
    format: null,
  }
  rows.value.splice(at, 0, row)
  texts.value.splice(at, 0, '')
  settled.value.splice(at, 0, true)
  void focusOn(at)
  readSoon()
}

function take(at: number): void {
  for (const each of [rows, texts, settled]) (each.value as unknown[]).splice(at, 1)
  void focusOn(Math.min(at, rows.value.length - 1))
  readSoon()
}

function move(from: number, by: number): void {
  const to = from + by
  if (to < 0 || to >= rows.value.length) return
  for (const each of [rows, texts, settled]) {
    const held = each.value as unknown[]
    held.splice(to, 0, held.splice(from, 1)[0])
  }
  void focusOn(to)
  readSoon()
}

function choose(at: number): void {
  const row = rows.value[at]!
  menu.pickInto({
    dimension: begun.made.dimension,
    hierarchy: begun.made.layout.hierarchy,
    action: null,
    present: row.members,
    into: (members) => {
      settled.value[at] = true
      change(at, { members })
    },
  })
}

async function put(): Promise<void> {
  await readNow()
  if (!isReady.value) return
  const before = workspace.shownStep
  const gesture = isChange
    ? ({ kind: 'change_layout', made: made.value } as const)
    : ({ kind: 'make_layout', made: made.value, is_put: true } as const)
  await workspace.act(gesture)
  if (workspace.shownStep !== before) laying.close()
}
</script>

<template>
  <aside class="layout" aria-label="A statement of your own">
    <h2>{{ isChange ? begun.made.caption : 'A statement of your own' }}</h2>
    <p class="soft">Rows of members, and formulas over other rows. No total is added under it.</p>
    <label class="named"
      ><span class="soft">Named</span><input v-model="caption" class="field" maxlength="120" aria-label="Named"
    /></label>
    <ol ref="list">
      <LayoutLine
        v-for="(row, at) in rows"
        :key="row.name"
        :row="row"
        :text="texts[at] ?? ''"
        :fault="faultOf.get(at) ?? ''"
        :active="active === at"
        @activate="active = at"
        @write="write(at, $event)"
        @change="change(at, $event)"
        @move="move(at, $event)"
        @take="take(at)"
        @choose="choose(at)"
      />
    </ol>
    <p v-if="faultOf.get(-1)" class="fault" role="status">{{ faultOf.get(-1) }}</p>
    <div class="adding" role="group" aria-label="Add a row below">
      <span class="soft">Add below</span>
      <v-btn v-for="each in KINDS" :key="each.kind" size="small" @click="add(each.kind)">{{ each.words }}</v-btn>
    </div>
    <footer>
      <v-btn @click="laying.close">Cancel</v-btn>
      <v-btn
        variant="flat"
        color="primary"
        :disabled="!isReady"
        :title="isReady ? '' : 'Mend what is told above first'"
        @click="put"
        >{{ isChange ? 'Change it' : 'Put it in the table' }}</v-btn
      >
    </footer>
  </aside>
</template>

<style scoped src="../panel.css" />
<style scoped>
p {
  margin: -4px 0 0;
}

.named {
  display: flex;
  gap: 10px;
  align-items: baseline;
}

ol {
  flex: 1;
  min-height: 80px;
  margin: 0;
  padding: 0 0 40px;
  overflow: auto;
  list-style: none;
  background: rgb(var(--v-theme-surface));
  border-block: 1px solid rgb(var(--v-theme-rule));
}

.adding {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
  align-items: center;
}
</style>
