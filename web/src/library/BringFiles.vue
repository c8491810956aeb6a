<script setup lang="ts">
// The way in for files of one's own: chosen, or dropped anywhere on the page.
import { useDropZone } from '@vueuse/core'
import { ref, shallowRef } from 'vue'
import type { BroughtModel } from '@/api/types'
import { later } from '@/shell/later'
import { useSession } from '@/shell/session'

const BringSlip = later(() => import('./BringSlip.vue'))
const DatabaseSlip = later(() => import('./DatabaseSlip.vue'))

const props = defineProps<{ open: (model: BroughtModel) => Promise<unknown> }>()
const session = useSession()
const isFetching = ref(false)
const input = ref<HTMLInputElement | null>(null)
const chosen = shallowRef<File[]>([])
const { isOverDropZone } = useDropZone(() => document.body, {
  onDrop: (files) => take(files ?? []),
  checkValidity: (items) => !chosen.value.length && [...items].every((item) => item.kind === 'file'),
  preventDefaultForUnhandled: true,
})

function take(files: Iterable<File>): void {
  chosen.value = [...files]
  if (input.value) input.value.value = ''
}

/** Leads into the model; where that fails it is said, and the model is among the others. */
async function made(model: BroughtModel): Promise<void> {
  await props.open(model)
  chosen.value = []
  isFetching.value = false
}
</script>

<template>
  <div class="bring">
    <button
      type="button"
      class="plain-button act"
      title="One, or several that belong together: a model is made of them"
      @click="input?.click()"
    >
      Bring files of your own…
    </button>
    <p class="soft about">CSV, spreadsheets or Parquet; or drop them here. You alone see what you bring.</p>
    <button
      v-if="session.isAdministrator"
      type="button"
      class="plain-button act"
      title="Of a PostgreSQL server: a model is made of them"
      @click="isFetching = true"
    >
      Tables of a database…
    </button>
    <input
      ref="input"
      class="unseen"
      type="file"
      multiple
      accept=".csv,.tsv,.txt,.gz,.xlsx,.xlsm,.xls,.ods,.jsonl,.ndjson,.sqlite,.sqlite3,.db,.parquet,.zip"
      aria-label="Files of your own"
      tabindex="-1"
      @change="take(($event.target as HTMLInputElement).files ?? [])"
    />
    <div v-if="isOverDropZone" class="over">Drop the files: a model is made of them</div>
    <DatabaseSlip v-if="isFetching" @made="made" @close="isFetching = false" />
    <BringSlip v-if="chosen.length" :chosen="chosen" @made="made" @close="chosen = []" />
  </div>
</template>

<style scoped>
.bring {
  margin: 0 8px 16px;
}

.act {
  color: rgb(var(--v-theme-secondary));
  text-decoration: underline;
  text-underline-offset: 2px;
}

.about {
  margin: 2px 0 0;
  font-size: 12px;
}

.over {
  position: fixed;
  inset: 12px;
  z-index: 2000;
  display: grid;
  place-items: center;
  font: 400 24px var(--serif, serif);
  pointer-events: none;
  background: rgb(var(--v-theme-saffron-tint) / 92%);
  border: 2px solid rgb(var(--v-theme-saffron));
}
</style>
