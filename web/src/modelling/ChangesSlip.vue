<script setup lang="ts">
// What publishing would change, in the model and in what colleagues saved; and the publication.
import { computed, onMounted, ref, shallowRef } from 'vue'
import { ApiError, GET, POST, body } from '@/api/client'
import type { Changes } from '@/api/types'
import { useNotice } from '@/shell/notice'
import { useProblem } from '@/shell/problem'
import { useWaiting } from '@/workspace/waiting'
import { useShaping } from './shaping'
import { many } from './words'

const emit = defineEmits<{ close: [] }>()
const shaping = useShaping()
const problem = useProblem()
const notice = useNotice()
const { waiting, follow, takeBack } = useWaiting()
const changes = shallowRef<Changes | null>(null)
const wrong = ref('')
const faults = ref<{ place: string; message: string; hint: string }[]>([])
const isBusy = ref(false)
const isSure = ref(false)

const KINDS = [
  { kind: 'breaks', caption: 'Would lose something', tells: (words: string[]) => words.join(' ') },
  { kind: 'changes', caption: 'Their numbers may be others', tells: (words: string[]) => `by ${words.join(', ')}` },
  { kind: 'follows', caption: 'Follow the new names', tells: (words: string[]) => words.join(', ') },
  { kind: 'mended', caption: 'Would be whole again', tells: (words: string[]) => words.join(' ') },
]
const parts = computed(() =>
  KINDS.map((each) => ({
    ...each,
    analyses: (changes.value?.analyses ?? []).filter((one) => one.kind === each.kind),
  })).filter((each) => each.analyses.length),
)
const breaks = computed(() => (changes.value?.analyses ?? []).filter((each) => each.kind === 'breaks').length)

onMounted(load)

async function load(): Promise<void> {
  try {
    changes.value = await body(GET('/api/modelling/{model}/changes', { params: { path: shaping.path } }))
  } catch (error) {
    problem.tell(error)
    emit('close')
  }
}

async function publish(): Promise<void> {
  if (!changes.value) return
  wrong.value = ''
  faults.value = []
  isBusy.value = true
  const sent = { shown: shaping.shown, in_use: changes.value.in_use }
  try {
    const found = await follow(
      (question) =>
        body(
          POST('/api/modelling/{model}/publish', { params: { path: shaping.path, query: { question } }, body: sent }),
        ),
      'Reading the files by it',
    )
    shaping.put(found)
    void shaping.look()
    notice.tell(`Version ${found.version} is in use.`)
    emit('close')
  } catch (error) {
    if (!(error instanceof ApiError)) throw error
    if (error.code === 'cancelled') return
    wrong.value = `${error.message} ${error.hint}`
    faults.value = (error.details.faults as typeof faults.value | undefined) ?? []
    if (error.status === 409) await load()
  } finally {
    isBusy.value = false
  }
}
</script>

<template>
  <v-dialog
    aria-label="What would change"
    :model-value="true"
    width="640"
    scrollable
    @update:model-value="!isBusy && emit('close')"
  >
    <v-card>
      <div class="paper">
        <h2>What would change</h2>
        <p v-if="!changes" class="soft" role="status">The two are being compared.</p>
        <div v-else class="parts" tabindex="0">
          <h3 class="small-caps">In the model</h3>
          <ul>
            <li v-for="each in changes.differences" :key="each.part + each.name + each.words">{{ each.words }}</li>
          </ul>
          <p v-if="!changes.differences.length" class="soft">Nothing but how it is written.</p>
          <template v-for="part in parts" :key="part.kind">
            <h3 class="small-caps" :class="{ odd: part.kind === 'breaks' }">
              {{ part.caption }}: {{ many(part.analyses.length, 'analysis', 'analyses') }}
            </h3>
            <ul>
              <li v-for="(each, at) in part.analyses" :key="at">
                <strong>{{ each.name }}</strong>
                <span class="soft">of {{ each.owner }}: {{ part.tells(each.words) }}</span>
              </li>
            </ul>
          </template>
          <p class="soft">
            {{
              changes.untouched
                ? `${many(changes.untouched, 'saved analysis goes', 'saved analyses go')} on as ${changes.untouched === 1 ? 'it is' : 'they are'}.`
                : changes.analyses.length
                  ? ''
                  : 'No saved analysis asks this model.'
            }}
          </p>
        </div>
        <div v-if="wrong" class="wrong" role="alert">
          {{ wrong }}
          <ul v-if="faults.length">
            <li v-for="each in faults" :key="each.place + each.message">
              <strong>{{ each.place }}:</strong> {{ each.message }} {{ each.hint }}
            </li>
          </ul>
        </div>
        <label v-if="breaks" class="sure"
          ><input v-model="isSure" type="checkbox" /> Publish it all the same: they open with the rest, and say what is
          gone.</label
        >
        <footer>
          <span v-if="waiting" class="soft" role="status">{{ waiting.doing }}{{ waiting.words }}</span>
          <v-btn v-if="isBusy" @click="takeBack">Take it back</v-btn>
          <v-btn v-else @click="emit('close')">Not yet</v-btn>
          <v-btn
            variant="flat"
            color="primary"
            :disabled="!changes || shaping.shown === null || (breaks > 0 && !isSure)"
            :loading="isBusy"
            @click="publish"
            >Publish</v-btn
          >
        </footer>
      </div>
    </v-card>
  </v-dialog>
</template>

<style scoped src="../workspace/keeping/slip.css" />
<style scoped>
.parts {
  max-height: 56vh;
  overflow-y: auto;
}

h3 {
  margin: 10px 0 2px;
}

.odd {
  color: rgb(var(--v-theme-secondary));
}

ul {
  margin: 0;
  padding-left: 18px;
}

p {
  margin: 8px 0 0;
}

.sure {
  padding-top: 4px;
}
</style>
