<script setup lang="ts">
// The chart of what the table shows. It asks for the drawing's data only; the engine is not asked again.
import { useElementSize } from '@vueuse/core'
import { BarChart, HeatmapChart, LineChart, PieChart, ScatterChart } from 'echarts/charts'
import {
  AriaComponent,
  GridComponent,
  LegendComponent,
  MarkPointComponent,
  TitleComponent,
  TooltipComponent,
  VisualMapComponent,
} from 'echarts/components'
import { init, use, type EChartsType } from 'echarts/core'
import { LabelLayout } from 'echarts/features'
import { SVGRenderer } from 'echarts/renderers'
import { computed, onBeforeUnmount, ref, shallowRef, watch } from 'vue'
import { useTheme } from 'vuetify'
import { ApiError, POST, body } from '@/api/client'
import type { Chart, ChartData, ChartForm, Shown } from '@/api/types'
import { useProblem } from '@/shell/problem'
import { pigments } from '@/theme/colours'
import { useWorkspace } from '../store'
import { useSelection } from '../table/selection'
import { useThingMenu } from '../thingMenu'
import { cellThing, memberThing } from '../things'
import ChartForms from './ChartForms.vue'
import ChartTable from './ChartTable.vue'
import { save, savePicture } from './download'
import { markOf, markWords, measureOf, optionOf, panelsOf, type Mark } from './option'

use([
  BarChart,
  HeatmapChart,
  LineChart,
  PieChart,
  ScatterChart,
  AriaComponent,
  GridComponent,
  LegendComponent,
  MarkPointComponent,
  TitleComponent,
  TooltipComponent,
  VisualMapComponent,
  LabelLayout,
  SVGRenderer,
])

const props = defineProps<{ shown: Shown }>()
const workspace = useWorkspace()
const selection = useSelection()
const problem = useProblem()
const menu = useThingMenu()
const theme = useTheme()
const frame = ref<HTMLElement | null>(null)
const spot = ref<HTMLElement | null>(null)
const { width, height } = useElementSize(frame)
const data = shallowRef<ChartData | null>(null)
const active = ref<Mark | null>(null)
let drawing: EChartsType | null = null

const answered = computed(() => props.shown.answered!)
const chart = computed<Chart>(() => ({
  form: null,
  along: null,
  multiples: false,
  one_scale: false,
  ...workspace.document?.dress?.chart,
}))
const panels = computed(() => (data.value ? panelsOf(data.value, answered.value.measures, chart.value.multiples) : []))
const canSplit = computed(() => data.value?.categories.some((each) => each.captions.length > 1) ?? false)
const picked = computed(() => {
  const along = data.value?.along ?? 'rows'
  return new Set(
    data.value?.categories.flatMap((each, at) => (selection.isSelected(along, each.members.at(-1)) ? [at] : [])) ?? [],
  )
})
const spoken = computed(() =>
  data.value && active.value ? markWords(data.value, answered.value.measures, active.value).join(', ') : '',
)

async function draw(handle: string, wanted: typeof chart.value, isRenewed = false): Promise<void> {
  try {
    const found = await body(
      POST('/api/answers/{handle}/chart', { params: { path: { handle } }, body: { chart: wanted } }),
    )
    if (handle === answered.value.handle && wanted === chart.value) data.value = found
  } catch (error) {
    if (error instanceof ApiError && error.code === 'answer-gone' && !isRenewed) {
      // An answer that the server has let go is asked again; it may have its name of before.
      await workspace.run()
      if (handle === answered.value.handle) await draw(handle, wanted, true)
    } else problem.tell(error, () => draw(handle, wanted))
  }
  active.value = null
}

watch([() => answered.value.handle, chart], ([handle, wanted]) => draw(handle, wanted), { immediate: true })

const ink = computed(() => {
  const { colors, dark } = theme.current.value
  const of = (name: string): string => String(colors[name] ?? '')
  return {
    ink: of('on-surface'),
    soft: of('soft'),
    rule: of('rule'),
    paper: of('surface'),
    selected: of('secondary'),
    series: dark ? pigments.dark : pigments.light,
  }
})

watch(
  [data, picked, ink, width, height, frame],
  () => {
    if (!frame.value || !data.value || !width.value || !height.value) return
    drawing ??= started(frame.value)
    drawing.resize({ width: width.value, height: height.value })
    drawing.setOption(
      optionOf(
        data.value,
        answered.value.measures,
        chart.value.multiples,
        ink.value,
        { width: width.value, height: height.value },
        picked.value,
      ),
      { notMerge: true },
    )
  },
  { flush: 'post' },
)
onBeforeUnmount(() => drawing?.dispose())

function started(node: HTMLElement): EChartsType {
  const made = init(node, null, { renderer: 'svg' })
  made.on('click', (found) => {
    const mark = data.value && markOf(data.value, panels.value, found)
    const event = (found.event?.event ?? {}) as MouseEvent
    if (!mark) return
    active.value = mark
    take(mark, event.ctrlKey || event.metaKey || event.shiftKey, event)
  })
  return made
}

/** What a mark stands for: the member of its category, or of its series where the category is no member. */
function meant(mark: Mark) {
  const along = data.value!.along
  const category = data.value!.categories[mark.category]
  const across = along === 'rows' ? ('columns' as const) : ('rows' as const)
  return category?.members.length
    ? { header: category, axis: along }
    : { header: data.value!.series[mark.series], axis: across }
}

/** The number of the table that a mark draws; null for what is added up here alone. */
function cellOf(mark: Mark) {
  const { along, categories, series, panels: drawn } = data.value!
  const [category, across] = [categories[mark.category], series[mark.series]]
  const measure = across?.measure ?? mark.panel
  const [one, other] = [category?.lines[measure] ?? -1, across?.lines[measure] ?? -1]
  const placed = measureOf(data.value!, answered.value.measures, mark)?.placed ?? null
  if (!category || !across || one < 0 || other < 0) return null
  const [rows, columns] = along === 'rows' ? [category.members, across.members] : [across.members, category.members]
  const isEmpty = drawn[mark.panel]?.values[mark.series]?.[mark.category] == null
  const [row, column] = along === 'rows' ? [one, other] : [other, one]
  return { row, column, thing: cellThing(rows, columns, placed, isEmpty) }
}

function take(mark: Mark, selects: boolean, event?: MouseEvent): void {
  const { header, axis } = meant(mark)
  const member = header?.members.at(-1)
  if (!header || !member || member.is_others) return
  if (selects) {
    selection.turn({ axis, line: mark.category, member, chain: header.members })
    return
  }
  drawing?.dispatchAction({ type: 'hideTip' }) // the menu says what it is of
  const box = frame.value!.getBoundingClientRect()
  const node = spot.value!
  node.style.left = `${event?.clientX ? event.clientX - box.left : box.width / 2}px`
  node.style.top = `${event?.clientY ? event.clientY - box.top : box.height / 2}px`
  const cell = cellOf(mark)
  void menu.open(
    memberThing(member, header.members, axis),
    node,
    cell && { row: cell.row, column: cell.column },
    cell?.thing ?? null,
  )
}

function key(event: KeyboardEvent): void {
  const found = data.value
  const first = found?.panels[0]
  if (!found || !first) return
  const at = active.value ?? { panel: 0, category: -1, series: 0 }
  const moves: Record<string, [number, number]> = {
    ArrowRight: [1, 0],
    ArrowLeft: [-1, 0],
    ArrowDown: [0, 1],
    ArrowUp: [0, -1],
  }
  const move = moves[event.key]
  if (move) {
    const within = (value: number, count: number): number => Math.min(Math.max(value, 0), count - 1)
    active.value = {
      ...at,
      category: within(at.category + move[0], found.categories.length),
      series: within(at.series + move[1], found.series.length),
    }
    showTip(active.value)
  } else if (active.value && (event.key === 'Enter' || event.key === ' ')) take(active.value, event.key === ' ')
  else return
  event.preventDefault()
}

function showTip(mark: Mark): void {
  const at = panels.value.findIndex((each) => each.panel === mark.panel && each.places.includes(mark.category))
  const place = panels.value[at]?.places.indexOf(mark.category) ?? 0
  const width_ = panels.value[at]?.places.length ?? 1
  const isHeat = data.value?.form === 'heat'
  const perPanel = isHeat || data.value?.form === 'ring' ? 1 : (data.value?.series.length ?? 1)
  drawing?.dispatchAction({
    type: 'showTip',
    seriesIndex: isHeat ? at : at * perPanel + (perPanel > 1 ? mark.series : 0),
    dataIndex: isHeat ? mark.series * width_ + place : place,
  })
}

function change(changed: Partial<Chart>): void {
  void workspace.act({ kind: 'set_chart', chart: { ...chart.value, ...changed } })
}

function setForm(form: ChartForm): void {
  change({ form })
}

function turn(): void {
  change({ along: data.value?.along === 'rows' ? 'columns' : 'rows' })
}

function split(): void {
  change({ multiples: !chart.value.multiples })
}

function join(): void {
  change({ one_scale: !data.value?.one_scale })
}

function drawn(): string {
  return drawing?.renderToSVGString() ?? ''
}
</script>

<template>
  <section class="chart" aria-label="Chart">
    <ChartForms
      v-if="data"
      :data="data"
      :multiples="chart.multiples"
      :can-split="canSplit"
      @form="setForm"
      @turn="turn"
      @split="split"
      @join="join"
      @svg="save(drawn(), 'chart.svg', 'image/svg+xml')"
      @png="savePicture(drawn(), width, height)"
    />
    <p v-for="note in data?.notes" :key="note" class="note soft">{{ note }}</p>
    <p v-if="data && !data.panels.length" class="note soft">There is no number to draw yet.</p>
    <!-- Moved through by keys, with what stands there read out; the table below it is for those who read it whole. -->
    <div
      ref="frame"
      class="frame"
      role="application"
      aria-roledescription="chart"
      :aria-label="workspace.shown?.text"
      aria-describedby="chart-keys"
      tabindex="0"
      @keydown="key"
    >
      <span ref="spot" class="spot" />
    </div>
    <p id="chart-keys" class="unseen">
      Arrow keys move from mark to mark. Enter shows what can be done. Space selects.
    </p>
    <p class="unseen" aria-live="polite">{{ spoken }}</p>
    <ChartTable v-if="data" :data="data" :measures="answered.measures" />
  </section>
</template>

<style scoped>
.chart {
  position: relative;
  display: flex;
  flex-direction: column;
  min-width: 0;
  min-height: 0;
  background: rgb(var(--v-theme-surface));
}

.note {
  margin: 0;
  padding: 0 14px 4px;
  font-size: 12px;
}

.frame {
  position: relative;
  flex: 1;
  min-height: 0;
  overflow: hidden;
}

.frame:focus-visible {
  outline-offset: -2px;
}

.spot {
  position: absolute;
  width: 1px;
  height: 1px;
}
</style>
