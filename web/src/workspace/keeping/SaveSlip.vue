<script setup lang="ts">
import { computed, onMounted, ref, shallowRef, watch } from 'vue'
import { ApiError, GET, POST, body } from '@/api/client'
import type { Version } from '@/api/types'
import FolderField from '@/library/FolderField.vue'
import { folderOf } from '@/library/folderOf'
import { daySaid } from '@/library/entries'
import { useLibrary } from '@/library/library'
import { useNotice } from '@/shell/notice'
import { useSession } from '@/shell/session'
import { vFirstField } from '../firstField'
import { useWaiting } from '../waiting'
import WaitLine from '../WaitLine.vue'
import { useWorkspace } from '../store'
import SavedSince from './SavedSince.vue'

const props = defineProps<{ asCopy: boolean }>()
const emit = defineEmits<{ close: [] }>()
const workspace = useWorkspace()
const library = useLibrary()
const session = useSession()
const notice = useNotice()
const opened = workspace.draft?.analysis
const mayChange = opened?.may === 'change' || opened?.may === 'manage'
const savesOver = ref(!props.asCopy && mayChange)
const folder = ref<string | null>(savesOver.value ? opened!.folder : null)
const proposed = computed(() => (opened ? `${opened.name}, copy` : nameIn(folder.value)))
const name = ref(savesOver.value ? opened!.name : proposed.value)
/** The sentence stands for a description that nobody wrote; the server does not keep it as one. */
const firstDraft = workspace.shown?.text ?? ''
const description = ref(opened?.description || firstDraft)
/** What others saved since this was opened. */
const since = shallowRef<Version[]>([])
/** Another analysis of mine that is called so and lies there already. */
const isTaken = computed(() =>
  (library.library?.entries ?? []).some(
    (entry) =>
      entry.owner === session.person?.id &&
      entry.name.toLowerCase() === name.value.trim().toLowerCase() &&
      entry.folder === (folder.value || null) &&
      !(savesOver.value && entry.id === opened?.id),
  ),
)
const where = computed(() =>
  folder.value ? `in “${library.paths.get(folder.value) ?? folder.value}”` : 'without a folder',
)
const mayMove = computed(() => !savesOver.value || opened?.may === 'manage')
/** What is kept: the question, or its numbers as they are now. */
const keeps = ref<'question' | 'numbers'>('question')
const { waiting, follow, takeBack } = useWaiting()
const wrong = ref('')
const isSaving = ref(false)
const title = computed(() =>
  keeps.value === 'numbers'
    ? 'Freeze the numbers'
    : savesOver.value
      ? 'Save'
      : opened
        ? 'Save a copy'
        : 'Save as an analysis',
)

/** What a folder calls what lies in it; elsewhere the sentence says it. */
function nameIn(id: string | null): string {
  const shown = workspace.shown
  const chosen = library.library?.folders.find((each) => each.id === id)
  if (!shown || !chosen?.name_parts.length) return shown?.name ?? ''
  const words = { ...shown.name_words, who: session.person?.name ?? '', folder: chosen.name }
  return chosen.name_parts
    .map((part) => words[part])
    .filter(Boolean)
    .join(' · ')
    .slice(0, 200)
}

// A frozen copy is one of its own, and says of which day it is.
watch(keeps, (kept) => {
  savesOver.value = kept === 'question' && !props.asCopy && mayChange
  folder.value = savesOver.value || library.canPut(folder.value) ? folder.value : null
  const own = opened?.name ?? nameIn(folder.value)
  name.value =
    kept === 'numbers' ? `${own}, ${daySaid(new Date().toISOString())}` : savesOver.value ? own : proposed.value
})

// A name that nobody wrote follows the folder.
watch(proposed, (now, before) => {
  if (!savesOver.value && name.value === before) name.value = now
})

onMounted(() => library.load())

async function save(version = opened?.version): Promise<void> {
  if (!name.value.trim()) {
    wrong.value = 'Give it a name.'
    return
  }
  if (!workspace.draft || !workspace.document || isSaving.value) return
  if (keeps.value === 'numbers') return freeze()
  isSaving.value = true
  const step = workspace.shownStep
  try {
    const saved = await body(
      POST('/api/analyses', {
        body: {
          draft: workspace.draft.id,
          step,
          document: workspace.document,
          name: name.value,
          description: description.value,
          folder: mayMove.value ? await folderOf(folder.value) : opened!.folder,
          analysis: savesOver.value ? opened!.id : null,
          version: savesOver.value ? version : null,
        },
      }),
    )
    workspace.noteSaved(saved, step)
    emit('close')
  } catch (error) {
    if (!(error instanceof ApiError)) throw error
    wrong.value = `${error.message} ${error.hint}`
    if (error.code === 'saved-since') await lookSince()
  } finally {
    isSaving.value = false
  }
}

async function freeze(): Promise<void> {
  isSaving.value = true
  try {
    const asked = {
      document: workspace.document!,
      name: name.value,
      description: description.value === firstDraft ? '' : description.value,
      folder: await folderOf(folder.value),
    }
    const frozen = await follow(
      (question) =>
        body(
          POST('/api/drafts/{id}/frozen', {
            params: { path: { id: workspace.draft!.id }, query: { question } },
            body: asked,
          }),
        ),
      'Freezing',
    )
    notice.tell(`“${frozen.name}” is in the library, with the numbers of now.`)
    emit('close')
  } catch (error) {
    if (!(error instanceof ApiError)) throw error
    wrong.value = error.code === 'cancelled' ? '' : `${error.message} ${error.hint}`
  } finally {
    isSaving.value = false
  }
}

/** What is typed takes the place of the sentence. */
function replaceFirstDraft(event: FocusEvent): void {
  if (description.value === firstDraft) (event.target as HTMLTextAreaElement).select()
}

async function lookSince(): Promise<void> {
  const versions = await body(GET('/api/analyses/{id}/versions', { params: { path: { id: opened!.id } } })).catch(
    () => [],
  )
  since.value = versions.filter((each) => each.number > opened!.version)
  if (since.value.length) wrong.value = ''
}

function saveCopy(): void {
  savesOver.value = false
  since.value = []
  folder.value = library.canPut(folder.value) ? folder.value : null
  name.value = proposed.value
}

async function lookAtTheirs(): Promise<void> {
  emit('close')
  await workspace.showVersion(since.value[0]!.number)
}
</script>

<template>
  <v-dialog
    class="beside"
    scrim="transparent"
    :aria-label="title"
    :model-value="true"
    width="460"
    @update:model-value="emit('close')"
  >
    <v-card>
      <SavedSince
        v-if="since.length"
        :name="opened!.name"
        :since="since"
        :is-saving="isSaving"
        @close="emit('close')"
        @look="lookAtTheirs"
        @copy="saveCopy"
        @over="save(since[0]!.number)"
      />
      <form v-else class="paper" @submit.prevent="save()">
        <h2>{{ title }}</h2>
        <p class="sentence">{{ workspace.shown?.text }}</p>
        <v-text-field v-model="name" label="Name" v-first-field />
        <v-textarea v-model="description" label="Description" rows="2" auto-grow @focus="replaceFirstDraft" />
        <FolderField v-if="mayMove" v-model="folder" />
        <p v-if="isTaken" class="soft note" role="status">
          You have an analysis of this name {{ where }}: there will be two.
        </p>
        <p v-if="wrong" class="wrong" role="alert">{{ wrong }}</p>
        <fieldset class="kept">
          <legend class="unseen">What is kept</legend>
          <label
            ><input v-model="keeps" type="radio" value="question" />
            <span>The question <span class="soft">– its numbers are fresh at each opening</span></span></label
          >
          <label
            ><input v-model="keeps" type="radio" value="numbers" :disabled="!workspace.answered" />
            <span>The numbers of now <span class="soft">– a frozen copy that stays as it is</span></span></label
          >
        </fieldset>
        <p v-if="keeps === 'numbers'" class="soft note">
          Whoever it is shared with, also by its folder, sees these numbers as you see them now.
        </p>
        <div v-if="waiting" class="waits"><WaitLine :waiting="waiting" @take-back="takeBack" /></div>
        <footer>
          <v-btn @click="emit('close')">Cancel</v-btn>
          <v-btn type="submit" variant="flat" color="primary" :loading="isSaving">{{ title }}</v-btn>
        </footer>
      </form>
    </v-card>
  </v-dialog>
</template>

<style scoped src="./slip.css" />
<style scoped>
.kept {
  display: flex;
  flex-direction: column;
  gap: 4px;
  padding: 0;
  border: 0;
}

.waits {
  position: relative;
  height: 40px;
}

.waits > * {
  inset: 0;
}

.kept label {
  display: flex;
  gap: 8px;
  align-items: center;
}
</style>
