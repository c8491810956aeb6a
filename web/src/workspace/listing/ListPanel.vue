<script setup lang="ts">
// A list of members, by hand or by a rule, at the right while the table stays in sight.
import { mdiClose } from '@mdi/js'
import { useDebounceFn } from '@vueuse/core'
import { computed, ref, shallowRef, watch } from 'vue'
import { POST, body } from '@/api/client'
import type { Condition, DraftedList, MemberPath } from '@/api/types'
import { useProblem } from '@/shell/problem'
import { useWorkspace } from '../store'
import { useThingMenu } from '../thingMenu'
import { useListing } from './listing'
import { PERIODS, periodNamed, plainNumber, ruleParts } from './rule'

const READ_AFTER = 250
const MOST_READ = 4
const listing = useListing()
const workspace = useWorkspace()
const problem = useProblem()
const menu = useThingMenu()
const begun = listing.begun!
const { made: start } = begun
const isChange = start.name !== ''
const caption = ref(start.caption)
const isRule = ref(!!start.level)
const members = ref<MemberPath[]>([...(start.members ?? [])])
const entry = computed(() => workspace.catalogue?.dimensions.find((each) => each.name === start.dimension))
const levels = computed(() => entry.value?.hierarchies.find((each) => each.name === start.hierarchy)?.levels ?? [])
const measures = computed(() => [
  ...(workspace.shown?.made ?? []).map((each) => ({ name: each.made.name ?? '', caption: each.made.caption })),
  ...(workspace.catalogue?.folders ?? []).flatMap((folder) => folder.measures),
])
const calendar = computed(() => workspace.catalogue?.dimensions.find((each) => each.day))
const level = ref(start.level ?? levels.value.at(-1)?.name ?? '')
const parts = ref(
  ruleParts(start, level.value, workspace.document?.question?.measures?.[0]?.measure ?? measures.value[0]?.name ?? ''),
)
const over = ref<Condition[]>([...(start.over ?? [])])
const found = shallowRef<DraftedList>(begun)
const isKept = ref(false)
let asked = 0
let suggested = isChange ? '' : begun.suggested

const made = computed<DraftedList['made']>(() => {
  const base = { ...start, caption: caption.value.trim(), members: members.value }
  if (!isRule.value) return { ...base, level: null, where: [], ranked: null, over: [] }
  const { name, measure, first } = parts.value
  const where: Condition[] = [...parts.value.further]
  if (name.on && name.text.trim()) {
    const values = name.text
      .split(';')
      .map((each) => each.trim())
      .filter(Boolean)
    where.push({
      kind: 'attribute',
      dimension: start.dimension,
      attribute: name.attribute,
      operator: name.operator,
      values,
      on: 'caption',
      action: 'keep',
    })
  }
  const amount = plainNumber(measure.text)
  if (measure.on && amount !== null) {
    where.push({
      kind: 'measure',
      measure: measure.measure,
      at: [{ dimension: start.dimension, hierarchy: start.hierarchy, level: level.value }],
      per: null,
      operator: measure.operator,
      values: [amount],
      action: 'keep',
    })
  }
  const ranked = first.on
    ? { measure: first.measure, count: first.count, amount: Number(first.amount) || 0, side: first.side }
    : null
  return {
    ...base,
    level: level.value,
    where,
    ranked,
    over: parts.value.first.on || where.some((each) => each.kind === 'measure') ? over.value : [],
  }
})
const wrong = computed(() =>
  isRule.value &&
  parts.value.measure.on &&
  parts.value.measure.text.trim() &&
  plainNumber(parts.value.measure.text) === null
    ? 'Write digits, as in 10000 or 2.5.'
    : found.value.fault
      ? `${found.value.fault} ${found.value.hint}`
      : '',
)
const isReady = computed(() => !wrong.value && caption.value.trim() !== '' && found.value.made === made.value)
const looksAtRecords = computed(() => isRule.value && (parts.value.first.on || parts.value.measure.on))
const here = computed(() => {
  const { count, captions } = found.value
  const more = count - captions.length
  return count
    ? `${count.toLocaleString('en')}${isRule.value ? ' just now' : ''}: ${captions.join(', ')}${more > 0 ? ` and ${more.toLocaleString('en')} more` : ''}`
    : 'No member just now.'
})

async function readNow(): Promise<void> {
  const document = workspace.document
  const mine = ++asked
  if (!document) return
  const wanted = made.value
  const path = { model: document.model }
  try {
    const read = await body(
      POST('/api/models/{model}/lists/read', { params: { path }, body: { document, made: wanted } }),
    )
    if (mine !== asked) return
    // A name that was not written follows what the list is of.
    if (caption.value === suggested && read.suggested && caption.value !== read.suggested)
      caption.value = read.suggested
    suggested = read.suggested || suggested
    found.value = { ...read, made: wanted }
  } catch (error) {
    if (mine === asked) problem.tell(error)
  }
}

const readLater = useDebounceFn(readNow, READ_AFTER)
watch(made, () => void readLater(), { immediate: true })

function choose(): void {
  menu.pickInto({
    dimension: start.dimension,
    hierarchy: start.hierarchy,
    action: null,
    present: members.value,
    into: (picked) => (members.value = picked),
  })
}

/** Over a period that moves with the data, in place of any other. It is told beside the choice, which stands ready for another. */
function overPeriod(choice: HTMLSelectElement): void {
  const name = choice.value
  choice.value = ''
  const time = calendar.value?.name
  const others = over.value.filter((each) => !(each.kind !== 'group' && 'dimension' in each && each.dimension === time))
  const period = time ? periodNamed(name, time) : null
  over.value = period ? [...others, period] : others
}

async function put(): Promise<void> {
  // What was written last may not have been read yet, and a name may follow what is read.
  for (let tries = 0; found.value.made !== made.value && tries < MOST_READ; tries += 1) await readNow()
  if (!isReady.value) return
  const before = workspace.shownStep
  await workspace.act(
    isChange
      ? { kind: 'change_list', made: made.value }
      : { kind: 'make_list', made: made.value, is_put: isKept.value },
  )
  if (workspace.shownStep !== before) listing.close()
}
</script>

<template>
  <aside class="listing" aria-label="A list of members">
    <h2>{{ isChange ? start.caption : 'A list of members' }}</h2>
    <p class="soft">To keep, to leave out, to put on an axis, and to make measures only for.</p>
    <form class="form" @submit.prevent="put">
      <label class="named"
        ><span class="soft">Named</span
        ><input v-model="caption" class="field" maxlength="120" aria-label="Named" placeholder="Busiest lines"
      /></label>
      <div role="radiogroup" aria-label="Which members" class="ways">
        <label><input v-model="isRule" type="radio" :value="false" /> those that I choose</label>
        <label><input v-model="isRule" type="radio" :value="true" /> by a rule</label>
      </div>
      <template v-if="isRule">
        <div class="line">
          <span>Every</span>
          <select v-model="level" class="plain" aria-label="Level">
            <option v-for="each in levels" :key="each.name" :value="each.name">{{ each.caption.toLowerCase() }}</option>
          </select>
          <button type="button" class="plain-button link" @click="choose">
            {{ members.length ? `below ${members.length} chosen` : 'below any member' }}
          </button>
        </div>
        <div class="line" :class="{ off: !parts.name.on }">
          <label><input v-model="parts.name.on" type="checkbox" /> whose</label>
          <select v-model="parts.name.attribute" class="plain" aria-label="Attribute" @change="parts.name.on = true">
            <option v-for="each in entry?.attributes ?? []" :key="each.name" :value="each.name">
              {{ each.caption.toLowerCase() }}
            </option>
          </select>
          <select
            v-model="parts.name.operator"
            class="plain"
            aria-label="How it is compared"
            @change="parts.name.on = true"
          >
            <option value="contains">contains</option>
            <option value="begins_with">begins with</option>
            <option value="ends_with">ends in</option>
            <option value="equal">is</option>
          </select>
          <input
            v-model="parts.name.text"
            class="field"
            aria-label="Text"
            placeholder="Harbour; Pier"
            @input="parts.name.on = true"
          />
        </div>
        <div class="line" :class="{ off: !parts.measure.on }">
          <label><input v-model="parts.measure.on" type="checkbox" /> with</label>
          <select
            v-model="parts.measure.operator"
            class="plain"
            aria-label="Comparison"
            @change="parts.measure.on = true"
          >
            <option value="at_least">at least</option>
            <option value="more">more than</option>
            <option value="at_most">at most</option>
            <option value="less">less than</option>
          </select>
          <input
            v-model="parts.measure.text"
            class="field short"
            inputmode="decimal"
            aria-label="Number"
            placeholder="10,000"
            @input="parts.measure.on = true"
          />
          <select
            v-model="parts.measure.measure"
            class="plain"
            aria-label="Compared measure"
            @change="parts.measure.on = true"
          >
            <option v-for="each in measures" :key="each.name" :value="each.name">{{ each.caption }}</option>
          </select>
        </div>
        <div class="line" :class="{ off: !parts.first.on }">
          <label><input v-model="parts.first.on" type="checkbox" /> only the</label>
          <select v-model="parts.first.side" class="plain" aria-label="Which come first">
            <option value="largest">largest</option>
            <option value="smallest">smallest</option>
          </select>
          <input
            v-model="parts.first.amount"
            class="field short"
            type="number"
            min="0"
            step="any"
            aria-label="How many"
          />
          <select v-model="parts.first.count" class="plain" aria-label="How they are counted">
            <option value="members">members</option>
            <option value="percent_of_members">% of them</option>
            <option value="percent_of_measure">% of the total</option>
          </select>
          <span class="by"
            >by
            <select v-model="parts.first.measure" class="plain" aria-label="Ranked by">
              <option v-for="each in measures" :key="each.name" :value="each.name">{{ each.caption }}</option>
            </select></span
          >
        </div>
        <div v-if="looksAtRecords" class="line">
          <span>over</span>
          <span v-for="(_, at) in over" :key="at" class="chip">
            {{ found.over[at] ?? '…' }}
            <button
              type="button"
              class="plain-button"
              :aria-label="`Not only over ${found.over[at] ?? 'this'}`"
              @click="over = over.filter((_, place) => place !== at)"
            >
              <v-icon :icon="mdiClose" size="12" />
            </button>
          </span>
          <span v-if="!over.length" class="soft">all records</span>
          <select
            v-if="calendar"
            class="plain"
            aria-label="A period"
            :value="''"
            @change="overPeriod($event.target as HTMLSelectElement)"
          >
            <option value="" disabled>a period…</option>
            <option v-for="each in PERIODS" :key="each.title" :value="each.title">{{ each.title }}</option>
          </select>
        </div>
      </template>
      <div v-else class="line"><v-btn size="small" @click="choose">Choose members…</v-btn></div>
      <div class="result" role="status">
        <p v-if="wrong" class="fault">{{ wrong }}</p>
        <template v-else>
          <p v-if="isRule" class="says">{{ found.says }}</p>
          <p :class="{ soft: isRule }">{{ here }}</p>
        </template>
      </div>
      <footer>
        <label v-if="!isChange" class="kept"><input v-model="isKept" type="checkbox" /> and keep only these</label>
        <v-btn @click="listing.close">Cancel</v-btn>
        <v-btn
          variant="flat"
          color="primary"
          type="submit"
          :disabled="!!wrong || !caption.trim()"
          :title="caption.trim() ? '' : 'Give it a name first'"
          >{{ isChange ? 'Change it' : 'Make the list' }}</v-btn
        >
      </footer>
    </form>
  </aside>
</template>

<style scoped src="../panel.css" />
<style scoped>
.listing {
  overflow: auto;
}

p {
  margin: 0;
}

.form {
  display: flex;
  flex: 1;
  flex-direction: column;
  gap: 10px;
}

.named,
.line,
.ways {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 6px;
  align-items: center;
}

.named {
  flex-wrap: nowrap;
  gap: 10px;
}

.ways {
  gap: 4px 18px;
}

.line .field {
  min-width: 60px;
}

.line .short {
  flex: none;
  width: 64px;
  text-align: right;
}

.plain {
  max-width: 150px;
  padding: 1px 2px;
  font: inherit;
  color: inherit;
  background: transparent;
  border: 1px solid rgb(var(--v-theme-rule));
  border-radius: 2px;
}

.off > :not(label) {
  color: rgb(var(--v-theme-soft));
}

.by {
  padding-left: 22px;
}

input[type='checkbox'],
input[type='radio'] {
  margin-left: 0;
}

.link {
  text-decoration: underline;
}

.chip {
  display: inline-flex;
  gap: 2px;
  align-items: center;
  padding: 0 4px;
  background: rgb(var(--v-theme-hair));
}

.result {
  display: flex;
  flex-direction: column;
  gap: 4px;
  padding-top: 8px;
  border-top: 1px solid rgb(var(--v-theme-rule));
}

.says {
  font: italic 15px/20px var(--serif);
}

footer {
  align-items: center;
  margin-top: auto;
}

.kept {
  flex: 1;
}
</style>
