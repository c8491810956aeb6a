<script setup lang="ts">
// What was begun and not saved: the latest few, one to discard or several at once.
import { computed, ref, shallowRef } from 'vue'
import type { DraftSummary } from '@/api/types'
import { whenSaid } from './entries'

const props = defineProps<{ drafts: DraftSummary[] }>()
const emit = defineEmits<{ discard: [ids: string[]] }>()
const FEW = 4
const showsAll = ref(false)
const isChoosing = ref(false)
const chosen = ref<string[]>([])
/** What is chosen from: as it was when the choosing began, so that no line moves under the hand. */
const offered = shallowRef<DraftSummary[]>([])
const there = computed(() => new Set(props.drafts.map((each) => each.id)))
const shown = computed(() => {
  // What was discarded just before may still have stood in the list then.
  if (isChoosing.value) return offered.value.filter((each) => there.value.has(each.id))
  return showsAll.value ? props.drafts : props.drafts.slice(0, FEW)
})

function turnChoosing(): void {
  isChoosing.value = !isChoosing.value
  offered.value = props.drafts
  chosen.value = []
}

function discardChosen(): void {
  emit('discard', chosen.value)
  turnChoosing()
}
</script>

<template>
  <p v-if="isChoosing" class="soft acts">
    <button class="plain-button act" @click="chosen = chosen.length < shown.length ? shown.map((each) => each.id) : []">
      {{ chosen.length < shown.length ? 'all' : 'none' }}
    </button>
    <button class="plain-button act" :disabled="!chosen.length" @click="discardChosen">
      discard {{ chosen.length || '' }} chosen
    </button>
    <button class="plain-button act" @click="turnChoosing">leave them</button>
  </p>
  <div v-for="draft in shown" :key="draft.id" class="draft">
    <label v-if="isChoosing" class="choice">
      <input v-model="chosen" type="checkbox" :value="draft.id" />
      <span class="words">{{ draft.sentence || 'An empty sheet' }}</span>
    </label>
    <router-link v-else class="words" :to="{ name: 'draft', params: { id: draft.id } }">{{
      draft.sentence || 'An empty sheet'
    }}</router-link>
    <div class="soft">
      <span v-if="draft.analysis_name">changes to “{{ draft.analysis_name }}” · </span>{{ whenSaid(draft.updated_at) }}
      <template v-if="!isChoosing">
        · <button class="plain-button act" @click="emit('discard', [draft.id])">discard</button></template
      >
    </div>
  </div>
  <p v-if="!isChoosing" class="soft acts">
    <button v-if="drafts.length > shown.length" class="plain-button act" @click="showsAll = true">
      {{ drafts.length - shown.length }} more
    </button>
    <button v-if="drafts.length > 1" class="plain-button act" @click="turnChoosing">discard several…</button>
  </p>
</template>

<style scoped>
.draft {
  display: flex;
  gap: 16px;
  align-items: baseline;
  justify-content: space-between;
  padding: 6px 4px 6px 0;
  border-bottom: 1px solid rgb(var(--v-theme-hair));
}

.words {
  font: italic 15px/20px var(--serif);
  color: inherit;
  text-decoration: none;
}

a.words:hover,
.act:hover:enabled {
  color: rgb(var(--v-theme-secondary));
}

.choice {
  display: flex;
  gap: 8px;
  align-items: baseline;
  cursor: pointer;
}

.draft > .soft {
  flex: none;
  font-size: 12px;
}

.acts {
  display: flex;
  gap: 14px;
  margin: 8px 0 0;
}

.act {
  text-decoration: underline;
  text-underline-offset: 2px;
}

.act:disabled {
  opacity: 0.5;
}
</style>
