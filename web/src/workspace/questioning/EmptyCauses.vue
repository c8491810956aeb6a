<script setup lang="ts">
// Which of what holds for a number leaves nothing there, and a click that lifts it.
import { computed, shallowRef } from 'vue'
import { GET, body } from '@/api/client'
import type { Account, Gesture, WhyEmpty } from '@/api/types'
import { useProblem } from '@/shell/problem'
import { useWorkspace } from '../store'
import type { CellLines } from '../thingMenu'
import { counted } from './digits'

const props = defineProps<{ handle: string; cell: CellLines; account: Account }>()
const emit = defineEmits<{ close: [] }>()
const workspace = useWorkspace()
const problem = useProblem()
const why = shallowRef<WhyEmpty | null>(null)
const helps = computed(() => why.value?.causes.some((each) => each.without) ?? false)

body(GET('/api/answers/{handle}/why-empty', { params: { path: { handle: props.handle }, query: props.cell } }))
  .then((found) => (why.value = found))
  .catch((error: unknown) => problem.tell(error))

/** Lifts filters, the last first, so that the places of the others hold. */
async function lift(...places: number[]): Promise<void> {
  emit('close')
  for (const at of places.sort((one, other) => other - one))
    await workspace.act({ kind: 'take_filter', at } satisfies Gesture)
}
</script>

<template>
  <p v-if="!why" class="soft">Looking…</p>
  <template v-else>
    <p v-if="why.left">{{ account.why_no_value }}</p>
    <p v-else-if="!why.all_records">There are no records at all that you may see.</p>
    <p v-else>
      Of {{ counted(why.all_records, 'record') }} none fulfils all of this.
      {{ helps ? '' : 'No single one of them is to blame.' }}
    </p>
    <table v-if="why.causes.length">
      <thead>
        <tr>
          <th scope="col">In force</th>
          <th scope="col" class="figure">Fulfil it alone</th>
          <th scope="col" class="figure">Left without it</th>
          <th scope="col"><span class="unseen">Lift</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="each in why.causes" :key="each.words" :class="{ blamed: each.without > why.left }">
          <th scope="row">{{ each.words }}</th>
          <td class="figure">{{ each.alone.toLocaleString('en-GB') }}</td>
          <td class="figure">{{ each.without.toLocaleString('en-GB') }}</td>
          <td>
            <v-btn
              v-if="each.at !== null && each.at !== undefined"
              :aria-label="`Lift it: ${each.words}`"
              @click="lift(each.at)"
              >Lift it</v-btn
            >
          </td>
        </tr>
      </tbody>
    </table>
    <template v-if="why.pairs.length">
      <p>Two of them empty it together:</p>
      <table>
        <tbody>
          <tr v-for="each in why.pairs" :key="each.words" class="blamed">
            <th scope="row">{{ each.words }}</th>
            <td class="figure">{{ each.without.toLocaleString('en-GB') }} left without both</td>
            <td><v-btn @click="lift(...each.at)">Lift both</v-btn></td>
          </tr>
        </tbody>
      </table>
    </template>
  </template>
</template>

<style scoped src="./plain.css" />
<style scoped>
thead th {
  font-size: 12px;
  color: rgb(var(--v-theme-soft));
}

.blamed th,
.blamed .figure:last-of-type {
  font-weight: 600;
}
</style>
