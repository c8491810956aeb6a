<script setup lang="ts">
// What has been arranged and not yet asked: the table's edges with what stands on them, which take drops as the
// table's do, and no number.
import { computed } from 'vue'
import type { Shown } from '@/api/types'
import DragThing from './DragThing.vue'
import { useDragging } from './dragging'
import { useWorkspace } from './store'
import DropZones from './table/DropZones.vue'
import { axisNames, type AxisName } from './table/axisNames'
import { measureThing } from './things'

const LABEL_WIDTH = 260
const LINE_HEIGHT = 26
const ROWS = 12
const GROUPS = 4
const props = defineProps<{ shown: Shown }>()
const workspace = useWorkspace()
const dragging = useDragging()

const measures = computed<AxisName[]>(() => {
  const phrases = props.shown.sentence.filter((each) => each.kind === 'measure')
  const placed = props.shown.document.question?.measures ?? []
  return placed.map((each, at) => ({ text: phrases[at]?.text ?? '', thing: measureThing(each) }))
})
// Where the measures stand on the rows, each has a line there.
const areOnRows = computed(() => props.shown.document.question?.measures_on === 'rows')
const rows = computed(() => [...axisNames(props.shown, 'rows'), ...(areOnRows.value ? measures.value : [])])
const columns = computed(() => axisNames(props.shown, 'columns'))
const heading = computed(() => (areOnRows.value ? [] : measures.value))
const headerHeight = computed(() => (columns.value.length + 1) * LINE_HEIGHT)
const groups = computed(() => (columns.value.length ? GROUPS : 1))
</script>

<template>
  <section
    class="skeleton"
    aria-label="What has been arranged"
    :style="{ '--label-width': `${LABEL_WIDTH}px`, '--line': `${LINE_HEIGHT}px` }"
  >
    <div class="head" :style="{ height: `${headerHeight}px` }">
      <div class="corner">
        <DragThing v-for="each in rows" :key="each.text" class="name" :thing="each.thing">{{ each.text }}</DragThing>
      </div>
      <div class="heads">
        <div v-for="each in columns" :key="each.text" class="line">
          <DragThing class="name" :thing="each.thing">{{ each.text }}</DragThing>
        </div>
        <div class="line measures">
          <span v-for="group in groups" :key="group" class="group" :aria-hidden="group > 1">
            <template v-if="group === 1"
              ><DragThing v-for="each in heading" :key="each.text" class="name" :thing="each.thing">{{
                each.text
              }}</DragThing></template
            >
            <template v-else
              ><span v-for="each in heading" :key="each.text" class="name faint">{{ each.text }}</span></template
            >
          </span>
        </div>
      </div>
    </div>
    <div class="body" aria-hidden="true">
      <div v-for="row in ROWS" :key="row" class="row">
        <span class="ghost label" /><span v-for="group in groups" :key="group" class="cell"
          ><span class="ghost"
        /></span>
      </div>
    </div>
    <div class="ask">
      <p class="first">Arranged, and not yet asked.</p>
      <p class="soft">Nothing is counted until you ask.</p>
      <v-btn variant="flat" color="primary" @click="workspace.run">Show it</v-btn>
    </div>
    <DropZones
      v-if="dragging.isDragging"
      :header-height="headerHeight"
      :label-width="LABEL_WIDTH"
      :rows-fill-sheet="false"
    />
  </section>
</template>

<style scoped>
.skeleton {
  position: relative;
  height: 100%;
  overflow: hidden;
  background: rgb(var(--v-theme-surface));
}

.head {
  display: flex;
  border-bottom: 1px solid rgb(var(--v-theme-rule));
}

.corner {
  display: flex;
  flex: none;
  gap: 10px;
  align-items: flex-end;
  width: var(--label-width);
  padding: 0 8px 0 12px;
  overflow: hidden;
}

.heads {
  flex: 1;
  min-width: 0;
}

.line {
  height: var(--line);
  padding-left: 12px;
  overflow: hidden;
  border-top: 1px solid rgb(var(--v-theme-hair));
}

.line:first-child {
  border-top: 0;
}

.measures {
  display: flex;
  padding: 0;
}

.group,
.cell {
  display: flex;
  flex: 1;
  gap: 14px;
  justify-content: flex-end;
  min-width: 0;
  padding: 0 12px;
  overflow: hidden;
}

.name {
  font-size: 12px;
  font-weight: 600;
  line-height: var(--line);
  color: rgb(var(--v-theme-soft));
  white-space: nowrap;
}

.faint {
  opacity: 0.45;
}

.row {
  display: flex;
  align-items: center;
  height: var(--line);
  border-bottom: 1px solid rgb(var(--v-theme-hair));
}

.ghost {
  display: block;
  width: 58px;
  height: 7px;
  background: rgb(var(--v-theme-hair));
  border-radius: 2px;
}

.label {
  width: 110px;
  margin-left: 12px;
  margin-right: calc(var(--label-width) - 122px);
}

.ask {
  position: absolute;
  top: 120px;
  left: 50%;
  display: grid;
  gap: 6px;
  justify-items: center;
  padding: 22px 40px;
  text-align: center;
  background: rgb(var(--v-theme-surface));
  border: 1px solid rgb(var(--v-theme-rule));
  transform: translateX(-50%);
}

.ask p {
  margin: 0;
}

.first {
  font: 22px/30px var(--serif);
}
</style>
