<script setup lang="ts">
// The members of a hierarchy of the draft, to be ticked: one that is ticked stands for all below it.
import { computed, ref, shallowRef, watch } from 'vue'
import { ApiError, POST, body } from '@/api/client'
import type { Trial } from '@/api/types'
import { useShaping } from '../shaping'

type Member = Trial['members'][number]
type Path = Member['path']

const props = defineProps<{ dimension: string; hierarchy: string }>()
const picked = defineModel<Path[]>({ required: true })
const shaping = useShaping()
const top = shallowRef<Member[]>([])
const below = shallowRef<ReadonlyMap<string, Member[]>>(new Map())
const trouble = ref('')

const idOf = (path: Path) => JSON.stringify(path)
const ids = computed(() => new Set(picked.value.map(idOf)))
const lines = computed(() => {
  const found: { member: Member; depth: number; id: string; isUnder: boolean }[] = []
  const add = (members: Member[], depth: number, isUnder: boolean) => {
    for (const member of members) {
      const id = idOf(member.path)
      found.push({ member, depth, id, isUnder })
      const inner = below.value.get(id)
      if (inner) add(inner, depth + 1, isUnder || ids.value.has(id))
    }
  }
  add(top.value, 0, false)
  return found
})

async function ask(path: Path): Promise<Member[]> {
  try {
    const sent = { dimension: props.dimension, hierarchy: props.hierarchy, path, start: 0 }
    return (await body(POST('/api/modelling/{model}/trial', { params: { path: shaping.path }, body: sent }))).members
  } catch (error) {
    if (!(error instanceof ApiError)) throw error
    trouble.value = `${error.message} ${error.hint}`
    return []
  }
}

watch(
  () => [props.dimension, props.hierarchy],
  async () => {
    trouble.value = ''
    below.value = new Map()
    top.value = await ask([])
  },
  { immediate: true },
)

async function turn(member: Member): Promise<void> {
  const id = idOf(member.path)
  const now = new Map(below.value)
  if (!now.delete(id)) now.set(id, await ask(member.path))
  below.value = now
}

function tick(member: Member): void {
  const id = idOf(member.path)
  const isBelow = (path: Path) => path.length > member.path.length && idOf(path.slice(0, member.path.length)) === id
  picked.value = ids.value.has(id) ? picked.value.filter((each) => idOf(each) !== id) : [...picked.value.filter((each) => !isBelow(each)), member.path]
}
</script>

<template>
  <p v-if="trouble" class="soft" role="alert">{{ trouble }}</p>
  <ul v-else class="ticks" aria-label="Members">
    <li v-for="line in lines" :key="line.id" :style="{ paddingLeft: `${16 * line.depth}px` }">
      <button v-if="line.member.can_open" type="button" class="plain-button turn" :aria-expanded="below.has(line.id)" :aria-label="`Open ${line.member.caption}`" @click="turn(line.member)">{{ below.has(line.id) ? '▾' : '▸' }}</button><span v-else class="turn" />
      <label><input type="checkbox" :checked="line.isUnder || ids.has(line.id)" :disabled="line.isUnder" @change="tick(line.member)" /> {{ line.member.caption }}</label>
    </li>
  </ul>
</template>

<style scoped>
.ticks {
  max-height: 210px;
  margin: 0;
  padding: 2px 4px;
  overflow: auto;
  list-style: none;
  background: rgb(var(--v-theme-surface));
}

.turn {
  display: inline-block;
  width: 16px;
}
</style>
