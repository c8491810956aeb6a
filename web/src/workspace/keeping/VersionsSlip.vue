<script setup lang="ts">
// Every save of an analysis: by whom, when, and what it changed. One is looked at as a step of a draft, or put back.
import { onMounted, shallowRef } from 'vue'
import { GET, POST, body } from '@/api/client'
import type { LibraryEntry, Version } from '@/api/types'
import { changeWords, whenSaid } from '@/library/entries'
import { useNotice } from '@/shell/notice'
import { useProblem } from '@/shell/problem'
import { useRouter } from 'vue-router'
import { useWorkspace } from '../store'

const props = defineProps<{
  analysis: { id: string; name: string; version: number; may: LibraryEntry['may'] }
  /** Whether it is open in the workspace, where a version is looked at in place. */ isOpen?: boolean
}>()
const emit = defineEmits<{ close: []; restored: [] }>()
const problem = useProblem()
const notice = useNotice()
const router = useRouter()
const workspace = useWorkspace()
const versions = shallowRef<Version[] | null>(null)
const params = { path: { id: props.analysis.id } }

onMounted(async () => {
  versions.value = await body(GET('/api/analyses/{id}/versions', { params })).catch(
    (error: unknown) => (problem.tell(error), emit('close'), null),
  )
})

async function look(version: Version): Promise<void> {
  emit('close')
  if (props.isOpen) await workspace.showVersion(version.number)
  else await router.push({ name: 'analysis', params: { id: props.analysis.id }, query: { version: version.number } })
}

async function putBack(version: Version): Promise<void> {
  try {
    await body(
      POST('/api/analyses/{id}/versions/{number}/restore', {
        params: { path: { id: props.analysis.id, number: version.number } },
      }),
    )
    notice.tell(
      `“${props.analysis.name}” is as in version ${version.number} again; what came after it is kept among its versions.`,
    )
    emit('restored')
    emit('close')
  } catch (error) {
    problem.tell(error)
  }
}
</script>

<template>
  <v-dialog
    class="beside"
    scrim="transparent"
    aria-label="Versions"
    :model-value="true"
    width="520"
    @update:model-value="emit('close')"
  >
    <v-card>
      <div class="paper">
        <h2>Versions of “{{ analysis.name }}”</h2>
        <p class="soft note">
          Each save is kept. Looked at, a version is a step on the trail, where it can be compared with any other.
        </p>
        <div v-if="versions" class="list" tabindex="0" role="region" aria-label="Its versions">
          <div v-for="(version, at) in versions" :key="version.number" class="version">
            <div class="line">
              <strong>{{ version.number }}</strong>
              <span>{{ version.saved_by ?? 'somebody' }}, {{ whenSaid(version.saved_at) }}</span>
              <span v-if="!at" class="soft">as it is now</span>
              <span class="space" />
              <v-btn v-if="isOpen || at" :aria-label="`Look at version ${version.number}`" @click="look(version)"
                >Look at it</v-btn
              >
              <v-btn
                v-if="at && !isOpen && (analysis.may === 'change' || analysis.may === 'manage')"
                :aria-label="`Put version ${version.number} back`"
                @click="putBack(version)"
                >Put it back</v-btn
              >
            </div>
            <div class="soft">
              {{
                changeWords(version.changes) ||
                (at === versions.length - 1 ? version.sentence : 'nothing that the sentence tells')
              }}
            </div>
          </div>
        </div>
        <footer><v-btn @click="emit('close')">Close</v-btn></footer>
      </div>
    </v-card>
  </v-dialog>
</template>

<style scoped src="./slip.css" />
<style scoped>
.list {
  max-height: 420px;
  overflow-y: auto;
}

.version {
  padding: 5px 0;
  border-bottom: 1px solid rgb(var(--v-theme-hair));
}

.line {
  display: flex;
  gap: 8px;
  align-items: baseline;
}

.space {
  flex: 1;
}
</style>
