<script setup lang="ts">
// Files on their way to the server, and the model that is made of them.
import { computed, onMounted, shallowRef } from 'vue'
import type { BroughtModel } from '@/api/types'
import { useBringing } from './bringing'

const props = defineProps<{ chosen: File[]; into?: { name: string; caption: string } }>()
const emit = defineEmits<{ made: [model: BroughtModel]; renewed: []; close: [] }>()
const { files, trouble, isBusy, waiting, bring, again, stop } = useBringing(props.into?.name ?? null)
const title = computed(() => {
  const what = props.chosen.length === 1 ? props.chosen[0]!.name : `${props.chosen.length} files`
  return props.into ? `${what}, into ${props.into.caption}` : what
})

const made = shallowRef<BroughtModel | null>(null)
const total = computed(() => files.value.reduce((sum, each) => sum + each.file.size, 0))
const sent = computed(() => files.value.reduce((sum, each) => sum + each.sent, 0))
const isSent = computed(() => total.value > 0 && sent.value >= total.value)
const share = computed(() =>
  isSent.value ? (waiting.value?.share ?? 0) : (100 * sent.value) / Math.max(total.value, 1),
)

const SIZES = ['bytes', 'kB', 'MB', 'GB']
function sized(bytes: number): string {
  const step = bytes < 1000 ? 0 : Math.min(Math.floor(Math.log10(bytes) / 3), SIZES.length - 1)
  return `${(bytes / 1000 ** step).toLocaleString('en-GB', { maximumFractionDigits: step ? 1 : 0 })} ${SIZES[step]}`
}

async function go(bringing: Promise<BroughtModel | boolean>): Promise<void> {
  const found = await bringing
  if (typeof found !== 'boolean') {
    made.value = found
    emit('made', found)
  } else if (found) emit('renewed')
}

async function leave(): Promise<void> {
  await stop()
  emit('close')
}

onMounted(() => go(bring(props.chosen)))
</script>

<template>
  <v-dialog aria-label="Bring files" :model-value="true" width="460" persistent @keydown.esc="leave">
    <v-card>
      <div class="paper">
        <h2>{{ title }}</h2>
        <table v-if="chosen.length > 1" class="files">
          <tbody>
            <tr v-for="each in files" :key="each.file.name">
              <th scope="row">{{ each.file.name }}</th>
              <td class="figure soft">
                {{
                  each.sent >= each.file.size
                    ? sized(each.file.size)
                    : `${sized(each.sent)} of ${sized(each.file.size)}`
                }}
              </td>
            </tr>
          </tbody>
        </table>
        <template v-if="isBusy || made">
          <v-progress-linear
            :model-value="share"
            :indeterminate="isSent && !share"
            color="saffron"
            height="3"
            aria-label="How far it is"
          />
          <p class="soft note" role="status">
            {{
              made
                ? 'A model is made. Opening it…'
                : isSent
                  ? `It is there. Looking at what it holds${waiting?.words ?? ''}…`
                  : `${sized(sent)} of ${sized(total)} sent`
            }}
          </p>
        </template>
        <p v-if="trouble" class="wrong" role="alert">{{ trouble }}</p>
        <footer v-if="!made">
          <v-btn @click="leave">{{ isBusy ? 'Take it back' : 'Close' }}</v-btn>
          <v-btn v-if="trouble" variant="flat" color="primary" @click="go(again())">Try again</v-btn>
        </footer>
      </div>
    </v-card>
  </v-dialog>
</template>

<style scoped src="../workspace/keeping/slip.css" />
<style scoped>
.files {
  width: 100%;
  max-height: 260px;
  margin-bottom: 10px;
  border-collapse: collapse;
  font-size: 13px;
}

.files th {
  padding: 3px 0;
  overflow: hidden;
  font-weight: 400;
  text-align: left;
  text-overflow: ellipsis;
}

.figure {
  text-align: right;
  white-space: nowrap;
}
</style>
