<script setup lang="ts">
// Before anything is put in: the sheet says how to begin, offers first sentences, and takes the first drop anywhere.
import { onMounted, shallowRef } from 'vue'
import { GET, body } from '@/api/client'
import type { FirstSentence } from '@/api/types'
import { useDragging } from './dragging'
import { useWorkspace } from './store'
import DropZones from './table/DropZones.vue'

const emit = defineEmits<{ write: [] }>()
const dragging = useDragging()
const workspace = useWorkspace()
const HEADER_HEIGHT = 90
const LABEL_WIDTH = 260
const sentences = shallowRef<readonly FirstSentence[]>([])

// They are a help and no more: without them one begins as before.
onMounted(async () => {
  const model = workspace.draft?.model
  if (model)
    sentences.value = await body(GET('/api/models/{model}/first-sentences', { params: { path: { model } } })).catch(
      () => [],
    )
})

function ask(sentence: FirstSentence): void {
  void workspace.act({ kind: 'rewrite', question: sentence.question, levels_seen: [] })
}
</script>

<template>
  <div class="empty">
    <div>
      <p class="first">Drag a measure here to see a number.</p>
      <p class="soft">Or click measures and dimensions: each goes where it fits best.</p>
      <template v-if="sentences.length">
        <p class="soft or">Or begin with a sentence</p>
        <ul>
          <li v-for="each in sentences" :key="each.text">
            <button type="button" class="plain-button sentence" @click="ask(each)">{{ each.text }}</button>
          </li>
        </ul>
        <p class="soft">
          <button type="button" class="plain-button own" @click="emit('write')">Write one of your own</button>
        </p>
      </template>
    </div>
    <DropZones v-if="dragging.isDragging" :header-height="HEADER_HEIGHT" :label-width="LABEL_WIDTH" rows-fill-sheet />
  </div>
</template>

<style scoped>
.empty {
  position: relative;
  display: grid;
  place-items: center;
  height: 100%;
  text-align: center;
  background: rgb(var(--v-theme-surface));
}

.first {
  margin: 0 0 4px;
  font: 22px/30px var(--serif);
}

.or {
  margin: 28px 0 4px;
}

ul {
  margin: 0 0 8px;
  padding: 0;
  list-style: none;
}

.sentence {
  padding: 3px 10px;
  font: italic 18px/26px var(--serif);
}

.sentence:hover {
  background: rgb(var(--v-theme-saffron-tint));
}

.own {
  text-decoration: underline;
  text-underline-offset: 2px;
}
</style>
