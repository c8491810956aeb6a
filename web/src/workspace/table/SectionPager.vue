<script setup lang="ts">
// Pages of a wide crosstab: the columns under one outermost header at a time, or all of them.
import { mdiChevronLeft, mdiChevronRight } from '@mdi/js'
import { computed, ref, watch } from 'vue'
import { GET, body } from '@/api/client'
import type { Section } from '@/api/types'

/** `opens`: it turns to the first page by itself. `canPart`: the measures could be turned over one by one. */
const props = defineProps<{ handle: string; shown: number | null; opens: boolean; canPart: boolean }>()
const emit = defineEmits<{ turn: [section: Section | null]; part: [] }>()
const sections = ref<Section[]>([])
const at = computed(() => sections.value.findIndex((each) => each.start === props.shown))
const words = computed(() => (at.value < 0 ? 'All columns' : (sections.value[at.value]?.caption ?? '')))

/** Of which answer the sections are. Those of the one before stand until the next are there: the table keeps its height. */
const of = ref('')

watch(
  () => props.handle,
  async (handle) => {
    const found = await body(GET('/api/answers/{handle}/sections', { params: { path: { handle } } })).catch(() => [])
    if (handle !== props.handle) return
    sections.value = found
    of.value = handle
    if (props.opens) turn(0)
  },
  { immediate: true },
)

function turn(to: number): void {
  if (of.value === props.handle) emit('turn', to < 0 ? null : (sections.value[to] ?? null))
}
</script>

<template>
  <nav v-if="sections.length > 1" class="pager" aria-label="Pages of columns">
    <v-btn :icon="mdiChevronLeft" size="22" aria-label="The page before" :disabled="at < 0" @click="turn(at - 1)" />
    <v-menu>
      <template #activator="{ props: activator }">
        <button
          v-bind="activator"
          type="button"
          class="plain-button here"
          title="Show the columns under one header only"
        >
          {{ words }}
        </button>
      </template>
      <v-list class="slip-list" role="menu" max-height="360">
        <v-list-item role="menuitem" title="All columns" @click="turn(-1)" />
        <v-list-item v-if="canPart" role="menuitem" title="One measure at a time" @click="emit('part')" />
        <v-list-item
          v-for="(section, place) in sections"
          :key="section.start"
          role="menuitem"
          :title="section.caption"
          @click="turn(place)"
        />
      </v-list>
    </v-menu>
    <v-btn
      :icon="mdiChevronRight"
      size="22"
      aria-label="The next page"
      :disabled="at >= sections.length - 1"
      @click="turn(at + 1)"
    />
  </nav>
</template>

<style scoped>
.pager {
  display: flex;
  flex: none;
  align-items: center;
  justify-content: flex-end;
  padding: 1px 14px;
  background: rgb(var(--v-theme-background));
  border-top: 1px solid rgb(var(--v-theme-hair));
}

.here {
  min-width: 64px;
  padding: 0 6px;
  text-align: center;
}

.pager :deep(.v-icon) {
  font-size: 16px;
}
</style>
