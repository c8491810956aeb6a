<script setup lang="ts">
import { mdiChartBar, mdiChevronDoubleRight, mdiSwapHorizontal, mdiTable, mdiViewSplitVertical } from '@mdi/js'
import { useEventListener, useStorage } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { whenSaid } from '@/library/entries'
import { useProblem } from '@/shell/problem'
import TopStrip from '@/shell/TopStrip.vue'
import { later } from '@/shell/later'
import AssumedLine from './AssumedLine.vue'
import EmptySheet from './EmptySheet.vue'
import ThingMenu from './ThingMenu.vue'
import CataloguePanel from './catalogue/CataloguePanel.vue'
import { useDropMonitor, useLanding } from './dragging'
import SelectionPanel from './SelectionPanel.vue'
import SkeletonSheet from './SkeletonSheet.vue'
import TakeMenu from './TakeMenu.vue'
import WaitLine from './WaitLine.vue'
import WayBackLine from './WayBackLine.vue'
import { useLinking } from './keeping/linking'
import { useSaying } from './keeping/saying'
import FrozenLine from './keeping/FrozenLine.vue'
import UnkeptLine from './keeping/UnkeptLine.vue'
import LostLine from './LostLine.vue'
import WarningLine from './WarningLine.vue'
import { useAsking } from './asking'
import { useLaying } from './laying/laying'
import { useListing } from './listing/listing'
import { useMaking } from './making/making'
import { focusOn, usePlaceKeys } from './places'
import SentenceBar from './sentence/SentenceBar.vue'
import { useWorkspace } from './store'
import CrosstabTable from './table/CrosstabTable.vue'
import { useSelection } from './table/selection'
import { useTaking } from './table/taking'
import { useThingMenu } from './thingMenu'
import TrailBar from './trail/TrailBar.vue'
import { isSamePlaced } from './things'

// Slips are loaded when they are first wanted.
const MemberPicker = later(() => import('./members/MemberPicker.vue'))
const PromptSlip = later(() => import('./PromptSlip.vue'))
const KeysSlip = later(() => import('./KeysSlip.vue'))
const JoinSlip = later(() => import('./members/JoinSlip.vue'))
const LimitSlip = later(() => import('./narrowing/LimitSlip.vue'))
const ConditionSlip = later(() => import('./narrowing/ConditionSlip.vue'))
const OpeningSlip = later(() => import('./narrowing/OpeningSlip.vue'))
const ChartSheet = later(() => import('./chart/ChartSheet.vue'))
const TableSlip = later(() => import('./dress/TableSlip.vue'))
const NumbersSlip = later(() => import('./dress/NumbersSlip.vue'))
const NumberSlip = later(() => import('./questioning/NumberSlip.vue'))
const LayoutPanel = later(() => import('./laying/LayoutPanel.vue'))
const ListPanel = later(() => import('./listing/ListPanel.vue'))
const MakingPanel = later(() => import('./making/MakingPanel.vue'))
const SaveSlip = later(() => import('./keeping/SaveSlip.vue'))
const FeedSlip = later(() => import('./keeping/FeedSlip.vue'))
const CommentsSlip = later(() => import('./keeping/CommentsSlip.vue'))
const ScheduleSlip = later(() => import('./keeping/ScheduleSlip.vue'))
const VersionsSlip = later(() => import('./keeping/VersionsSlip.vue'))
const ShareSlip = later(() => import('./keeping/ShareSlip.vue'))

const props = defineProps<{ id: string }>()
const workspace = useWorkspace()
const problem = useProblem()
const router = useRouter()
const route = useRoute()
const menu = useThingMenu()
const asking = useAsking()
const making = useMaking()
const laying = useLaying()
const listing = useListing()
const selection = useSelection()
const taking = useTaking()
const saying = useSaying()
const linking = useLinking()
const isFolded = useStorage('dastan-catalogue-folded', false)
/** Whether the sentence is being written by hand. */
const isWriting = ref(false)
const slip = ref<'' | 'save' | 'copy' | 'share' | 'look' | 'versions' | 'feed' | 'times'>('')
const sheet = ref<HTMLElement | null>(null)
useDropMonitor()
// Back on the sheet beside every landing, a drag changes nothing.
useLanding(sheet, () => null)

const opened = computed(() => workspace.draft?.analysis ?? null)
const name = computed(() => opened.value?.name ?? 'Not yet saved')
const state = computed(() => {
  if (workspace.isSaved) return 'saved'
  if (workspace.trouble && workspace.unkept.length) return 'not kept'
  return workspace.canUndo ? `draft kept ${whenSaid(workspace.keptAt)}` : ''
})
const isBare = computed(() => {
  const question = workspace.answered?.document.question
  return !question?.measures?.length && !question?.rows?.length && !question?.columns?.length
})
const filterWords = computed(
  () =>
    workspace.shown?.sentence.find((each) => each.kind === 'filter' && each.at === menu.editing?.thing.at)?.text ?? '',
)
const edited = computed(() => {
  const thing = menu.editing?.thing
  return workspace.answered?.answered?.measures.find(
    (each) => thing?.measure && isSamePlaced(each.placed, { ...thing, measure: thing.measure }),
  )
})
const mayChange = computed(
  () => !workspace.frozen && (opened.value?.may === 'change' || opened.value?.may === 'manage'),
)
const saveWords = computed(() => (opened.value && !mayChange.value ? 'Save a copy' : 'Save'))
const canTurn = computed(() => {
  const question = workspace.document?.question
  return !!(question?.rows?.length || question?.columns?.length)
})
const holdsNothing = computed(() => {
  const answered = workspace.answered?.answered
  if (!answered?.measures.length) return false
  const { row_count, column_count, total_rows } = answered.window
  return (
    row_count === (total_rows?.rows.length ?? 0) &&
    column_count <= answered.measures.length &&
    !!total_rows?.values.flat().every((each) => each === null)
  )
})
const view = computed(() => workspace.document?.dress?.view ?? 'table')
const VIEWS = [
  { view: 'table', icon: mdiTable, words: 'The table' },
  { view: 'chart', icon: mdiChartBar, words: 'The chart of it' },
  { view: 'both', icon: mdiViewSplitVertical, words: 'Table and chart side by side' },
] as const
const shareWords = computed(() => {
  if (!opened.value) return 'Save it first; then it can be shared.'
  return opened.value.may === 'manage' ? '' : `${opened.value.owner_name} owns it: who may do what with it`
})

// What was selected in one answer means nothing in the next.
watch(
  () => workspace.answered,
  () => selection.clear(),
)

/** A saved analysis that has just been opened asks its questions, with their last answers filled in. */
function askOnOpening(): void {
  const prompts = workspace.shown?.prompts ?? []
  if (opened.value && !workspace.frozen && workspace.steps.length === 1 && prompts.length)
    asking.ask(prompts.map((each) => each.name))
}

async function openDraft(id: string): Promise<void> {
  try {
    await workspace.open(id)
    askOnOpening()
    if (route.query.said) saying.open()
    if (route.query.link) {
      const link = String(route.query.link)
      await router.replace({ name: 'draft', params: { id } })
      await linking.showLinked(link)
    }
    const version = Number(route.query.version)
    if (version) {
      await router.replace({ name: 'draft', params: { id } })
      await workspace.showVersion(version)
    }
  } catch (error) {
    problem.tell(error, () => openDraft(id))
    // While the server is away, the way to the draft stays; one that is not there leads back.
    if (!problem.again.length) await router.replace('/')
  }
}

watch(
  () => props.id,
  async (id) => {
    making.close()
    await openDraft(id)
  },
  { immediate: true },
)

const showsKeys = ref(false)
usePlaceKeys((key) => {
  if (key === '?') showsKeys.value = true
  else if (workspace.shown && workspace.mayExplore) isWriting.value = true
})

useEventListener('keydown', (event: KeyboardEvent) => {
  const isTyping = event.target instanceof HTMLElement && event.target.closest('input, textarea, .cm-editor')
  if (isTyping || !(event.ctrlKey || event.metaKey)) return
  if (event.key === 'Enter' && workspace.isBehind) {
    event.preventDefault()
    void workspace.run()
  } else if (event.key.toLowerCase() === 'z') {
    event.preventDefault()
    void (event.shiftKey ? workspace.redo() : workspace.undo())
  }
})
</script>

<template>
  <div class="workspace">
    <nav class="skips" aria-label="Skip">
      <button type="button" class="plain-button" @click="focusOn(',')">Skip to the table</button>
      <button v-if="workspace.mayExplore" type="button" class="plain-button" @click="focusOn('.')">
        Skip to the catalogue
      </button>
      <button v-if="workspace.mayExplore" type="button" class="plain-button" @click="isWriting = true">
        Write the sentence
      </button>
    </nav>
    <TopStrip>
      <router-link
        v-if="workspace.draft?.starts_from"
        class="soft model"
        :to="{ name: 'analysis', params: { id: workspace.draft.starts_from } }"
        title="Opens the analysis whose table this starts from"
        >{{ workspace.draft.model_caption }}</router-link
      >
      <span v-else class="soft model">{{ workspace.draft?.model_caption }}</span>
      <span class="soft model">/</span>
      <h1 class="name" :title="name">{{ name }}</h1>
      <button
        v-if="opened && !workspace.frozen"
        type="button"
        class="plain-button soft state versions"
        title="Its versions: who saved what, and when"
        @click="slip = 'versions'"
      >
        version {{ opened.version }}
      </button>
      <button
        v-if="opened"
        type="button"
        class="plain-button soft state versions"
        title="What is said of it and of its numbers"
        @click="saying.open()"
      >
        {{
          saying.comments.length
            ? `${saying.comments.length} comment${saying.comments.length > 1 ? 's' : ''}`
            : 'comments'
        }}
      </button>
      <span class="soft state">{{ state }}</span>
      <template #actions>
        <span class="views-choice" role="group" aria-label="What is shown">
          <v-btn
            v-for="each in VIEWS"
            :key="each.view"
            :icon="each.icon"
            size="26"
            :disabled="isBare"
            :aria-label="each.words"
            :title="each.words"
            :aria-pressed="view === each.view"
            :class="{ chosen: view === each.view }"
            @click="view !== each.view && workspace.act({ kind: 'set_view', view: each.view })"
          />
        </span>
        <v-btn
          :disabled="isBare || view === 'chart' || !workspace.mayTurn"
          title="How the table looks: its rows, labels and headers"
          @click="slip = 'look'"
          >Look</v-btn
        >
        <v-btn
          :prepend-icon="mdiSwapHorizontal"
          :disabled="!canTurn || !workspace.mayTurn"
          title="Rows become columns, and columns rows"
          @click="workspace.act({ kind: 'swap_axes' })"
          >Turn</v-btn
        >
        <TakeMenu :name="name" :disabled="isBare" :is-saved="!!opened" @feed="slip = 'feed'" @times="slip = 'times'" />
        <span :title="shareWords"><v-btn :disabled="!opened" @click="slip = 'share'">Share</v-btn></span>
        <v-btn v-if="mayChange" @click="slip = 'copy'">Save a copy</v-btn>
        <v-btn v-if="workspace.mayExplore" variant="flat" color="primary" @click="slip = 'save'">{{ saveWords }}</v-btn>
      </template>
    </TopStrip>
    <UnkeptLine />
    <SentenceBar v-model:writing="isWriting" />
    <WayBackLine />
    <LostLine />
    <FrozenLine v-if="workspace.frozen" :frozen="workspace.frozen" :name="name" />
    <p v-else-if="!workspace.mayExplore" class="looking" role="status">
      You may look at this analysis: go down in it, answer what it asks, and take it away. Ask
      {{ opened?.owner_name }} to let you explore it with changes of your own.
    </p>
    <AssumedLine />
    <WarningLine />
    <div class="middle">
      <template v-if="!workspace.mayExplore" />
      <CataloguePanel v-else-if="!isFolded" @fold="isFolded = true" />
      <v-btn
        v-else
        class="unfold"
        :icon="mdiChevronDoubleRight"
        size="24"
        aria-label="Unfold the catalogue"
        title="Unfold the catalogue"
        @click="isFolded = false"
      />
      <main ref="sheet" class="sheet">
        <div v-if="workspace.unanswered.length" class="notice">
          <p class="first">It asks you something first.</p>
          <v-btn variant="flat" color="primary" @click="asking.ask(workspace.unanswered)">Answer</v-btn>
        </div>
        <template v-else-if="workspace.shown">
          <SkeletonSheet v-if="!workspace.answered || (isBare && workspace.isBehind)" :shown="workspace.shown" />
          <EmptySheet v-else-if="isBare" @write="isWriting = true" />
          <div v-else-if="holdsNothing" class="notice">
            <p class="first">No records are left.</p>
            <p class="soft">
              The filters in the sentence keep none. Click one of them to change or lift it, or go back a step on the
              trail.
            </p>
            <v-btn
              variant="flat"
              color="primary"
              @click="
                menu.question({ row: workspace.answered.answered!.window.total_rows?.start ?? 0, column: 0 }, 'empty')
              "
              >Which of them empties it?</v-btn
            >
          </div>
          <div v-else class="views">
            <CrosstabTable v-if="view !== 'chart'" class="view" :shown="workspace.answered" />
            <ChartSheet v-if="view !== 'table'" class="view drawn" :shown="workspace.answered" />
          </div>
        </template>
        <WaitLine v-if="workspace.waiting" :waiting="workspace.waiting" @take-back="workspace.takeBack" />
        <WaitLine v-else-if="taking.waiting" :waiting="taking.waiting" @take-back="taking.takeBack" />
      </main>
      <MakingPanel v-if="making.isOpen" :key="making.opening" />
      <LayoutPanel v-else-if="laying.isOpen" :key="laying.opening" />
      <ListPanel v-else-if="listing.isOpen" :key="listing.opening" />
      <SelectionPanel v-else />
    </div>
    <TrailBar @keys="showsKeys = true" />
    <ThingMenu />
    <template v-if="asking.prompt">
      <MemberPicker
        v-if="asking.prompt.type === 'members'"
        :key="asking.prompt.name"
        :picking="asking.picking!"
        :prompt="asking.prompt"
        @close="asking.close"
      />
      <PromptSlip v-else :key="asking.prompt.name" :prompt="asking.prompt" />
    </template>
    <MemberPicker v-if="menu.picking" :picking="menu.picking" @close="menu.stopPicking" />
    <template v-if="menu.editing">
      <LimitSlip
        v-if="menu.editing.what === 'limit'"
        :dimension="menu.editing.thing.dimension ?? ''"
        :hierarchy="menu.editing.thing.hierarchy ?? ''"
        :level="menu.editing.thing.level"
        @close="menu.stopEditing"
      />
      <ConditionSlip
        v-else-if="menu.editing.what === 'condition'"
        :dimension="menu.editing.thing.dimension"
        :at="menu.editing.thing.at"
        @close="menu.stopEditing"
      />
      <NumbersSlip
        v-else-if="menu.editing.what === 'numbers' && edited"
        :measure="edited"
        :measures="workspace.answered?.answered?.measures ?? []"
        @close="menu.stopEditing"
      />
      <JoinSlip v-else-if="menu.editing.what === 'joint'" :thing="menu.editing.thing" @close="menu.stopEditing" />
      <OpeningSlip
        v-else-if="menu.editing.what === 'opening'"
        :at="menu.editing.thing.at ?? 0"
        :words="filterWords"
        @close="menu.stopEditing"
      />
    </template>
    <NumberSlip
      v-if="menu.questioned && workspace.answered"
      :key="workspace.answered.answered!.handle"
      :questioned="menu.questioned"
      :handle="workspace.answered.answered!.handle"
      @close="menu.stopQuestioning"
    />
    <SaveSlip v-if="slip === 'save' || slip === 'copy'" :as-copy="slip === 'copy'" @close="slip = ''" />
    <KeysSlip v-if="showsKeys" @close="showsKeys = false" />
    <TableSlip v-if="slip === 'look'" @close="slip = ''" />
    <ShareSlip v-if="slip === 'share' && opened" kind="analyses" :thing="opened" @close="slip = ''" />
    <FeedSlip v-if="slip === 'feed' && opened" :analysis="opened" @close="slip = ''" />
    <ScheduleSlip v-if="slip === 'times' && opened" :analysis="opened" @close="slip = ''" />
    <CommentsSlip v-if="saying.isOpen" />
    <VersionsSlip v-if="slip === 'versions' && opened" :analysis="opened" is-open @close="slip = ''" />
  </div>
</template>

<style scoped>
.workspace {
  display: flex;
  flex-direction: column;
  height: 100vh;
  overflow: hidden;
}

/* Seen by whoever comes to them with the keyboard. */
.skips {
  position: absolute;
  z-index: 10;
  display: flex;
  gap: 4px;
  padding: 4px 8px;
}

.skips button {
  padding: 4px 10px;
  background: rgb(var(--v-theme-surface));
  border: 1px solid rgb(var(--v-theme-rule));
}

.skips:not(:focus-within) {
  clip-path: inset(50%);
}

.looking {
  margin: 0;
  padding: 4px 18px;
  background: rgb(var(--v-theme-saffron-tint));
  border-bottom: 1px solid rgb(var(--v-theme-saffron));
}

.versions:hover {
  text-decoration: underline;
}

.middle {
  display: flex;
  flex: 1;
  min-height: 0;
}

.views {
  display: flex;
  height: 100%;
}

.view {
  flex: 1 1 0;
  min-width: 0;
}

.drawn:not(:only-child) {
  border-left: 1px solid rgb(var(--v-theme-rule));
}

.views-choice {
  display: inline-flex;
  gap: 1px;
}

.views-choice .chosen {
  color: rgb(var(--v-theme-secondary));
}

.sheet {
  position: relative;
  flex: 1;
  min-width: 0;
  background: rgb(var(--v-theme-surface));
}

.name {
  margin: 0;
  font: inherit;
  max-width: 340px;
  overflow: hidden;
  font-weight: 500;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.model {
  white-space: nowrap;
}

a.model {
  max-width: 260px;
  overflow: hidden;
  text-overflow: ellipsis;
}

/* Half the width, as at 200 %: what is least missed goes first. */
@media (width <= 820px) {
  .model,
  .state {
    display: none;
  }
}

.state {
  white-space: nowrap;
}

.unfold {
  margin: 8px 2px;
}

.notice {
  display: grid;
  gap: 6px;
  place-content: center;
  justify-items: center;
  height: 100%;
  padding: 0 40px;
  text-align: center;
}

.notice p {
  margin: 0;
}

.first {
  font: 22px/30px var(--serif);
}
</style>
