<script setup lang="ts">
import { useTimeoutFn } from '@vueuse/core'
import { computed, onMounted, ref, shallowRef } from 'vue'
import { useRouter } from 'vue-router'
import { DELETE, GET, POST, body } from '@/api/client'
import type { Library, LibraryEntry } from '@/api/types'
import { useProblem } from '@/shell/problem'
import TopStrip from '@/shell/TopStrip.vue'
import DraftList from './DraftList.vue'
import { matching } from './entries'
import EntryList from './EntryList.vue'
import RemovedList from './RemovedList.vue'
import RenameSlip from './RenameSlip.vue'

/** While a model is being opened, the library looks again so often. */
const LOOK_MS = 1500
const router = useRouter()
const problem = useProblem()
const library = shallowRef<Library | null>(null)
const words = ref('')
const mine = computed(() => matching(library.value?.mine ?? [], words.value))
const shared = computed(() => matching(library.value?.shared ?? [], words.value))
const recent = computed(() => matching(library.value?.recent ?? [], words.value))
const isEmpty = computed(() => library.value !== null && !library.value.mine.length && !library.value.shared.length)

const folders = computed(() => [...new Set((library.value?.mine ?? []).map((entry) => entry.folder).filter(Boolean))])
const renaming = shallowRef<LibraryEntry | null>(null)
/** What was deleted last, for as long as the page is open. */
const deleted = shallowRef<LibraryEntry | null>(null)

const { start: lookAgain } = useTimeoutFn(() => load(), LOOK_MS, { immediate: false })

/** Does something, and says it where it cannot be done; what did not get through can be tried again. */
async function doing(act: () => Promise<unknown>): Promise<void> {
  await act().catch((error: unknown) => problem.tell(error, () => doing(act)))
}

function load(): Promise<void> {
  return doing(async () => {
    library.value = await body(GET('/api/library'))
    if (library.value.models.some((model) => model.state === 'opening')) lookAgain()
  })
}

function begin(model: string): Promise<void> {
  return doing(async () => {
    const draft = await body(POST('/api/drafts', { body: { model } }))
    await router.push({ name: 'draft', params: { id: draft.id } })
  })
}

function discard(ids: string[]): Promise<void> {
  return doing(async () => {
    for (const id of ids) await body(DELETE('/api/drafts/{id}', { params: { path: { id } } }))
    await load()
  })
}

function remove(entry: LibraryEntry): Promise<void> {
  return doing(async () => {
    await body(DELETE('/api/analyses/{id}', { params: { path: { id: entry.id } } }))
    deleted.value = entry
    await load()
  })
}

function bringBack(entry: LibraryEntry): Promise<void> {
  return doing(async () => {
    await body(POST('/api/analyses/{id}/back', { params: { path: { id: entry.id } } }))
    if (deleted.value?.id === entry.id) deleted.value = null
    await load()
  })
}

onMounted(load)
</script>

<template>
  <div class="page">
    <TopStrip />
    <main v-if="library" class="contents">
      <h1 class="unseen">Library</h1>
      <section class="beginnings">
        <h2>Begin</h2>
        <div v-for="model in library.models" :key="model.name" class="model">
          <div class="model-name">{{ model.caption }}</div>
          <p class="soft">{{ model.description }}</p>
          <p v-if="model.state === 'failed'" class="trouble" role="alert">It cannot be opened. {{ model.trouble }}</p>
          <p v-else-if="model.state === 'opening'" class="soft" role="status">It is being opened. A large folder that is new is read once, which takes a while; later it opens at once.</p>
          <v-btn v-if="model.state !== 'failed'" variant="flat" color="primary" height="30" @click="begin(model.name)">New analysis</v-btn>
        </div>
        <p v-if="!library.models.length" class="empty">No model was granted to you yet. Ask an administrator to let you open one.</p>
        <template v-if="library.drafts.length">
          <h2>Not yet saved</h2>
          <DraftList :drafts="library.drafts" @discard="discard" />
        </template>
      </section>
      <section class="lists">
        <v-text-field v-if="!isEmpty" v-model="words" class="search" placeholder="Find an analysis" aria-label="Find an analysis" clearable />
        <p v-if="isEmpty" class="empty">
          Nothing is kept here yet. Begin an analysis on the left; what you save, and what colleagues share with you, is
          listed here.
        </p>
        <p v-if="deleted" class="deleted" role="status">
          “{{ deleted.name }}” is deleted. <button class="plain-button act" @click="bringBack(deleted)">Bring it back</button>
        </p>
        <div class="columns">
          <div v-if="recent.length">
            <h2>Recent</h2>
            <EntryList :entries="recent" show-owner flat @rename="renaming = $event" @remove="remove" />
          </div>
          <div v-if="mine.length">
            <h2>Mine</h2>
            <EntryList :entries="mine" @rename="renaming = $event" @remove="remove" />
          </div>
          <div v-if="shared.length">
            <h2>Shared with me</h2>
            <EntryList :entries="shared" show-owner />
          </div>
        </div>
        <RemovedList v-if="library.removed.length" :entries="library.removed" @back="bringBack" />
      </section>
    </main>
    <RenameSlip v-if="renaming" :entry="renaming" :folders="folders" @close="renaming = null" @renamed="load" />
  </div>
</template>

<style scoped>
.trouble {
  color: rgb(var(--v-theme-error));
}

.page {
  display: flex;
  flex-direction: column;
  height: 100vh;
}

.contents {
  flex: 1;
  display: grid;
  grid-template-columns: 300px minmax(0, 1500px);
  gap: 56px;
  padding: 26px 40px 60px;
  overflow: auto;
  background: rgb(var(--v-theme-surface));
}

h2 {
  margin: 22px 0 6px;
  padding-bottom: 3px;
  font: 600 20px/26px var(--serif);
  border-bottom: 1px solid rgb(var(--v-theme-on-surface));
}

section > h2:first-child {
  margin-top: 0;
}

.model-name {
  margin-top: 8px;
  font: 600 16px/22px var(--serif);
}

.model p {
  margin: 2px 0 10px;
}

.deleted {
  padding: 6px 10px;
  background: rgb(var(--v-theme-saffron-tint));
}

.act {
  text-decoration: underline;
  text-underline-offset: 2px;
}

/* On a wide screen the lists stand side by side. */
.columns {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(100%, 520px), 1fr));
  gap: 4px 56px;
  align-items: start;
}

.search {
  max-width: 300px;
  margin-bottom: 18px;
}

.empty {
  font: italic 17px/26px var(--serif);
  color: rgb(var(--v-theme-soft));
}
</style>
