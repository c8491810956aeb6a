<script setup lang="ts">
// What is known of a tie: how many records find what they point at, and how the other side would open.
import { computed, ref } from 'vue'
import type { Relationship } from '@/api/types'
import OfferList from './OfferList.vue'
import TrialTable from './TrialTable.vue'
import { useShaping } from '../shaping'
import { counted, factsOf, tableCaption } from '../words'

const props = defineProps<{ tie: Relationship }>()
const shaping = useShaping()
const look = computed(() => shaping.tieLook(props.tie))
const name = ref(props.tie.role)
const dimension = computed(() => shaping.model?.dimensions.find((each) => each.table === props.tie.to_table))
const measure = computed(() =>
  shaping.model?.measures.find(
    (each) => each.table === props.tie.from_table && !['ratio', 'formula'].includes(each.aggregate),
  ),
)
const isFact = computed(() => shaping.model !== null && factsOf(shaping.model).includes(props.tie.from_table))
const without = computed(
  () => dimension.value?.without ?? `without a ${(dimension.value?.caption ?? props.tie.to_table).toLowerCase()}`,
)
const offers = computed(() =>
  (shaping.bench?.offers ?? []).filter((each) => each.about.split('.')[0] === props.tie.to_table),
)
function share(part: number): string {
  return `${(100 * part) / Math.max(look.value?.records ?? 1, 1)}%`
}

async function rename(): Promise<void> {
  const role = name.value.trim()
  if (!role || role === props.tie.role) return
  if (await shaping.act({ kind: 'name_role', table: props.tie.from_table, role: props.tie.role, name: role }))
    shaping.choose({ kind: 'tie', table: props.tie.from_table, role })
}

async function untie(): Promise<void> {
  const { from_table: table, from_column: column } = props.tie
  if (await shaping.act({ kind: 'untie', table, role: props.tie.role }))
    shaping.choose({ kind: 'column', table, column })
}
</script>

<template>
  <aside :aria-label="`${tableCaption(tie.from_table)} to ${tableCaption(tie.to_table)}`">
    <h2>{{ tableCaption(tie.from_table) }} <i>to</i> {{ tableCaption(tie.to_table) }}</h2>
    <p>
      Many {{ tableCaption(tie.from_table).toLowerCase() }} have one
      {{ (dimension?.caption ?? tableCaption(tie.to_table)).toLowerCase() }}:
      <strong>{{ tie.from_column }}</strong> there is <strong>{{ tie.to_column }}</strong> here.
    </p>
    <template v-if="look">
      <p v-if="look.trouble" class="trouble" role="alert">{{ look.trouble }}</p>
      <template v-else>
        <div class="bar" aria-hidden="true">
          <span class="found" :style="{ width: share(look.found) }" /><span
            class="blank"
            :style="{ width: share(look.blank) }"
          /><span class="unknown" :style="{ width: share(look.unknown) }" />
        </div>
        <dl class="facts">
          <dt>found</dt>
          <dd>
            <strong>{{ counted(look.found) }}</strong>
          </dd>
          <dt>left blank</dt>
          <dd :class="{ some: look.blank }">{{ counted(look.blank) }}</dd>
          <dt>
            not in {{ tableCaption(tie.to_table)
            }}<template v-if="look.examples.length"
              >: <i>{{ look.examples.join(', ') }}</i></template
            >
          </dt>
          <dd :class="{ some: look.unknown }">{{ counted(look.unknown) }}</dd>
        </dl>
        <p v-if="look.repeated.length" class="trouble" role="alert">
          {{ look.repeated.join(', ') }} {{ look.repeated.length === 1 ? 'stands' : 'stand' }} in several rows of
          {{ tableCaption(tie.to_table) }}: a record cannot tell which it means. Point at another column, or mend the
          file.
        </p>
        <p v-else-if="look.blank || look.unknown" class="soft">
          These stay visible, as <i>{{ without }}</i>, and are told apart.
        </p>
      </template>
    </template>
    <p v-else class="soft" role="status">It is being counted.</p>
    <label>
      <span class="soft">in the role</span>
      <input v-model="name" class="field" aria-label="Role" @keydown.enter="rename" @change="rename" />
    </label>
    <button type="button" class="plain-button not" @click="untie">Untie them</button>
    <OfferList
      v-if="offers.length"
      :offers="offers"
      title="Seen in the data"
      @take="(offer) => shaping.act(offer.gesture)"
    />
    <template v-if="dimension && isFact">
      <h3>How it would open</h3>
      <TrialTable :dimension="dimension.name" :measure="measure?.name ?? null" />
    </template>
  </aside>
</template>

<style scoped src="../fields.css" />
<style scoped src="../sheet.css" />
<style scoped>
.bar {
  display: flex;
  height: 10px;
  background: rgb(var(--v-theme-hair));
}

.found {
  background: rgb(var(--v-theme-on-background));
}

.blank {
  background: rgb(var(--v-theme-saffron));
}

.unknown {
  background: rgb(var(--v-theme-secondary));
}

.some {
  color: rgb(var(--v-theme-secondary));
}
</style>
