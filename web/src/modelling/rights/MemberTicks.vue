<script setup lang="ts">
// The members of a hierarchy of the draft, to be picked: one that is picked stands for all below it.
import { computed, watch } from 'vue'
import { POST, body } from '@/api/client'
import type { ListedMember, MemberPath } from '@/api/types'
import MemberTree from '@/workspace/members/MemberTree.vue'
import { keyOf, toggled } from '@/workspace/members/picks'
import { useMemberTree } from '@/workspace/members/useMemberTree'
import { useShaping } from '../shaping'

const props = defineProps<{ dimension: string; hierarchy: string }>()
const members = defineModel<MemberPath[]>({ required: true })
const shaping = useShaping()
const tree = useMemberTree(({ path, start, search }) =>
  body(
    POST('/api/modelling/{model}/trial', {
      params: { path: shaping.path },
      body: { dimension: props.dimension, hierarchy: props.hierarchy, path, start, search },
    }),
  ),
)
const picked = computed(() => new Map(members.value.map((path) => [keyOf(path), path])))
const caption = computed(() => shaping.model?.dimensions.find((each) => each.name === props.dimension)?.caption ?? '')

function pick(all: ListedMember[]): void {
  let now: ReadonlyMap<string, MemberPath> = picked.value
  for (const each of all) now = toggled(now, each.path)
  members.value = [...now.values()]
}

watch(() => shaping.turn, tree.begin)
</script>

<template>
  <div class="ticks">
    <input
      v-model="tree.words.value"
      class="search-field"
      type="search"
      :placeholder="`Find in ${caption}`"
      :aria-label="`Find in ${caption}`"
    />
    <MemberTree
      :tree="tree"
      :picked="picked"
      :write="() => ''"
      :caption="caption"
      @pick="pick([$event])"
      @range="pick($event.filter((each) => !picked.has(keyOf(each.path))))"
    />
  </div>
</template>

<style scoped>
.ticks {
  display: flex;
  flex-direction: column;
  gap: 4px;
  height: 290px;
}
</style>
