<script setup lang="ts">
// What was published of the model, and the way back to it.
import { onMounted, shallowRef } from 'vue'
import { GET, POST, body } from '@/api/client'
import type { ModelVersion } from '@/api/types'
import { momentSaid } from '@/library/entries'
import { useProblem } from '@/shell/problem'
import { useShaping } from './shaping'

const emit = defineEmits<{ close: [] }>()
const shaping = useShaping()
const problem = useProblem()
const versions = shallowRef<ModelVersion[]>([])

onMounted(async () => {
  try {
    versions.value = await body(GET('/api/modelling/{model}/versions', { params: { path: shaping.path } }))
  } catch (error) {
    problem.tell(error)
    emit('close')
  }
})

async function goBack(number: number): Promise<void> {
  const isDone = await shaping.change(() =>
    body(
      POST('/api/modelling/{model}/versions/{number}/back', {
        params: { path: { ...shaping.path, number } },
        body: { shown: shaping.shown },
      }),
    ),
  )
  if (isDone) emit('close')
}
</script>

<template>
  <v-dialog
    class="beside"
    scrim="transparent"
    aria-label="Versions"
    :model-value="true"
    width="520"
    scrollable
    @update:model-value="emit('close')"
  >
    <v-card>
      <div class="paper">
        <h2>What was published</h2>
        <ul class="happened" tabindex="0">
          <li v-for="(each, at) in versions" :key="each.number">
            <div class="line">
              <strong>Version {{ each.number }}</strong
              ><span class="soft">{{ each.person_name ? `${each.person_name}, ` : '' }}{{ momentSaid(each.at) }}</span>
            </div>
            <p class="soft">{{ each.words }}</p>
            <button
              v-if="at"
              type="button"
              class="plain-button go"
              :aria-label="`Go back to it: version ${each.number}`"
              @click="goBack(each.number)"
            >
              Go back to it
            </button>
          </li>
        </ul>
        <p class="soft note">Going back is a step of the draft: it is in use once it is published.</p>
        <footer><v-btn @click="emit('close')">Close</v-btn></footer>
      </div>
    </v-card>
  </v-dialog>
</template>

<style scoped src="../workspace/keeping/slip.css" />
<style scoped src="./happened.css" />
<style scoped>
.happened {
  max-height: 56vh;
}
</style>
