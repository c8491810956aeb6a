<script setup lang="ts">
import { useTimeoutFn } from '@vueuse/core'
import { computed, onMounted, ref, shallowRef } from 'vue'
import { useRouter } from 'vue-router'
import { DELETE, GET, POST, body } from '@/api/client'
import type { Library } from '@/api/types'
import { useProblem } from '@/shell/problem'
import TopStrip from '@/shell/TopStrip.vue'
import { matching, whenSaid } from './entries'
import EntryList from './EntryList.vue'

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

const { start: lookAgain } = useTimeoutFn(() => load().catch(problem.tell), LOOK_MS, { immediate: false })

async function load(): Promise<void> {
  library.value = await body(GET('/api/library'))
  if (library.value.models.some((model) => model.state === 'opening')) lookAgain()
}

async function begin(model: string): Promise<void> {
  try {
    const draft = await body(POST('/api/drafts', { body: { model } }))
    await router.push({ name: 'draft', params: { id: draft.id } })
  } catch (error) {
    problem.tell(error)
  }
}

async function discard(id: string): Promise<void> {
  await body(DELETE('/api/drafts/{id}', { params: { path: { id } } })).then(load).catch(problem.tell)
}

onMounted(() => load().catch(problem.tell))
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
          <div v-for="draft in library.drafts" :key="draft.id" class="draft">
            <router-link :to="{ name: 'draft', params: { id: draft.id } }">{{ draft.sentence || 'An empty sheet' }}</router-link>
            <div class="soft">
              <span v-if="draft.analysis_name">changes to “{{ draft.analysis_name }}” · </span>{{ whenSaid(draft.updated_at) }}
              · <button class="plain-button discard" @click="discard(draft.id)">discard</button>
            </div>
          </div>
        </template>
      </section>
      <section class="lists">
        <v-text-field v-if="!isEmpty" v-model="words" class="search" placeholder="Find an analysis" aria-label="Find an analysis" clearable />
        <p v-if="isEmpty" class="empty">
          Nothing is kept here yet. Begin an analysis on the left; what you save, and what colleagues share with you, is
          listed here.
        </p>
        <template v-if="recent.length">
          <h2>Recent</h2>
          <EntryList :entries="recent" show-owner flat />
        </template>
        <template v-if="mine.length">
          <h2>Mine</h2>
          <EntryList :entries="mine" />
        </template>
        <template v-if="shared.length">
          <h2>Shared with me</h2>
          <EntryList :entries="shared" show-owner />
        </template>
      </section>
    </main>
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
  grid-template-columns: 300px minmax(0, 720px);
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

.draft {
  padding: 6px 0;
  border-bottom: 1px solid rgb(var(--v-theme-hair));
}

.draft a {
  font: italic 15px/20px var(--serif);
  color: inherit;
  text-decoration: none;
}

.draft a:hover,
.discard:hover {
  color: rgb(var(--v-theme-secondary));
}

.discard {
  text-decoration: underline;
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
