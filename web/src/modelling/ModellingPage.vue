<script setup lang="ts">
// A model is a sentence, a drawn plan and a trail of steps; what is looked at stands beside the room that it was found in.
import { useEventListener } from '@vueuse/core'
import { computed, onBeforeUnmount, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { ApiError, POST, body } from '@/api/client'
import { later } from '@/shell/later'
import { useProblem } from '@/shell/problem'
import TopStrip from '@/shell/TopStrip.vue'
import ChosenSheet from './ChosenSheet.vue'
import ModelSentence from './ModelSentence.vue'
import ModelTrail from './ModelTrail.vue'
import { useShaping } from './shaping'

const ROOMS = [
  { name: 'plan', caption: 'Plan', shows: later(() => import('./plan/PlanRoom.vue')), isBeside: true },
  { name: 'tables', caption: 'Tables', shows: later(() => import('./tables/TablesRoom.vue')), isBeside: true },
  {
    name: 'dimensions',
    caption: 'Dimensions',
    shows: later(() => import('./dimensions/DimensionsRoom.vue')),
    isBeside: false,
  },
  { name: 'measures', caption: 'Measures', shows: later(() => import('./measures/MeasuresRoom.vue')), isBeside: false },
  {
    name: 'rights',
    caption: 'Filters and rights',
    shows: later(() => import('./rights/RightsRoom.vue')),
    isBeside: false,
  },
  { name: 'text', caption: 'As text', shows: later(() => import('./text/TextRoom.vue')), isBeside: false },
] as const
const ChangesSlip = later(() => import('./ChangesSlip.vue'))
const ReadingsSlip = later(() => import('./ReadingsSlip.vue'))
const VersionsSlip = later(() => import('./VersionsSlip.vue'))

const props = defineProps<{ name: string; room: string }>()
const shaping = useShaping()
const problem = useProblem()
const router = useRouter()
const refused = ref('')
const slip = ref<'' | 'changes' | 'versions' | 'readings'>('')
const room = computed(() => ROOMS.find((each) => each.name === props.room) ?? ROOMS[0])
const standing = computed(() => {
  const shaped = shaping.shaped
  if (!shaped) return ''
  const uses = shaped.analyses === 1 ? 'one analysis' : `${shaped.analyses} analyses`
  const base = shaped.version ? `version ${shaped.version} is in use` : 'in use'
  const by = shaped.analyses ? ` by ${uses}` : ''
  return shaping.shown === null ? `${base}${by}, unchanged` : `draft · ${base}${by}`
})

watch(
  () => props.name,
  async (name) => {
    refused.value = ''
    try {
      await shaping.open(name)
    } catch (error) {
      if (!(error instanceof ApiError) || error.status === 0 || error.code === 'signed-out')
        problem.tell(error, () => shaping.open(name))
      else refused.value = `${error.message} ${error.hint}`
    }
  },
  { immediate: true },
)

useEventListener('keydown', (event) => {
  const isTyping =
    event.target instanceof HTMLElement &&
    (event.target.isContentEditable || ['INPUT', 'TEXTAREA', 'SELECT'].includes(event.target.tagName))
  if (isTyping || !(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== 'z') return
  event.preventDefault()
  void (event.shiftKey ? shaping.redo() : shaping.undo())
})
onBeforeUnmount(() => shaping.choose(null))

async function begin(): Promise<void> {
  try {
    const draft = await body(POST('/api/drafts', { body: { model: props.name } }))
    await router.push({ name: 'draft', params: { id: draft.id } })
  } catch (error) {
    problem.tell(error)
  }
}

function goTo(name: string): void {
  void router.push({ name: 'model', params: { name: props.name, room: name } })
}
</script>

<template>
  <div class="page">
    <TopStrip>
      <router-link class="soft crumb" to="/">Models</router-link>
      <span class="soft">/</span>
      <strong class="name">{{ shaping.model?.caption ?? props.name }}</strong>
      <span class="soft standing" role="status">{{ standing }}</span>
      <template #actions>
        <v-btn v-if="shaping.model" class="quiet-button" title="An analysis of the model as it is in use" @click="begin"
          >New analysis</v-btn
        >
        <v-btn
          v-if="shaping.model"
          class="quiet-button"
          title="When its files were read, and what came of it"
          @click="slip = 'readings'"
          >Files</v-btn
        >
        <v-btn v-if="shaping.shaped?.version" class="quiet-button" @click="slip = 'versions'">Versions</v-btn>
        <v-btn class="quiet-button" :disabled="shaping.shown === null" @click="slip = 'changes'"
          >What would change</v-btn
        >
        <v-btn variant="flat" color="primary" height="26" :disabled="shaping.shown === null" @click="slip = 'changes'"
          >Publish…</v-btn
        >
      </template>
    </TopStrip>
    <main v-if="refused" class="refused">
      <h1>This model cannot be shaped here</h1>
      <p>{{ refused }}</p>
      <router-link to="/">To the library</router-link>
    </main>
    <template v-else-if="shaping.model">
      <ModelSentence @go="goTo" />
      <p v-if="shaping.shaped?.is_stale" class="stale" role="alert">
        Another document is in use than this draft was begun from. What would change says what publishing would undo.
      </p>
      <div class="floor">
        <main class="room">
          <nav aria-label="Rooms of the model">
            <router-link
              v-for="each in ROOMS"
              :key="each.name"
              :to="{ name: 'model', params: { name, room: each.name } }"
              :aria-current="each.name === room.name ? 'page' : undefined"
              >{{ each.caption }}</router-link
            >
            <span v-if="shaping.waiting" class="soft wait" role="status"
              >{{ shaping.waiting.doing }}{{ shaping.waiting.words }}</span
            >
          </nav>
          <p v-if="shaping.benchTrouble" class="trouble" role="alert">{{ shaping.benchTrouble }}</p>
          <component :is="room.shows" class="inner" />
        </main>
        <ChosenSheet v-if="room.isBeside" />
      </div>
      <ModelTrail />
    </template>
    <main v-else class="refused"><p class="soft" role="status">The model is being opened.</p></main>
    <ChangesSlip v-if="slip === 'changes'" @close="slip = ''" />
    <ReadingsSlip v-if="slip === 'readings'" @close="slip = ''" />
    <VersionsSlip v-if="slip === 'versions'" @close="slip = ''" />
  </div>
</template>

<style scoped>
.page {
  display: flex;
  flex-direction: column;
  height: 100vh;
}

.crumb {
  text-decoration: none;
}

.crumb:hover {
  text-decoration: underline;
}

.name,
.standing {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.refused {
  padding: 40px;
}

.refused h1 {
  font: 600 22px/30px var(--serif);
}

.stale,
.trouble {
  margin: 0;
  padding: 4px 18px;
  background: rgb(var(--v-theme-saffron-tint));
}

.floor {
  display: flex;
  flex: 1;
  min-height: 0;
}

.room {
  display: flex;
  flex: 1;
  flex-direction: column;
  min-width: 0;
  background: rgb(var(--v-theme-surface));
}

nav {
  display: flex;
  gap: 20px;
  align-items: center;
  height: 38px;
  padding: 0 18px;
}

nav a {
  padding: 4px 0;
  color: rgb(var(--v-theme-soft));
  text-decoration: none;
  white-space: nowrap;
}

nav a:hover {
  color: inherit;
}

nav a[aria-current] {
  font-weight: 600;
  color: rgb(var(--v-theme-on-background));
  border-bottom: 2px solid rgb(var(--v-theme-secondary));
}

.wait {
  margin-left: auto;
  font-size: 12px;
}

.inner {
  flex: 1;
  min-height: 0;
}
</style>
