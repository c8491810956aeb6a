<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import { GET, PUT, body } from '@/api/client'
import { useNotice } from '@/shell/notice'
import { useProblem } from '@/shell/problem'
import { useSession } from '@/shell/session'

interface Colleague {
  person: string
  name: string
  mayRead: boolean
  mayChange: boolean
}

const props = defineProps<{ analysis: { id: string; name: string } }>()
const emit = defineEmits<{ close: [] }>()
const session = useSession()
const problem = useProblem()
const notice = useNotice()
const colleagues = ref<Colleague[]>([])
const isLoaded = ref(false)
const isAlone = computed(() => isLoaded.value && !colleagues.value.length)
const params = { path: { id: props.analysis.id } }

onMounted(async () => {
  try {
    const [people, shares] = await Promise.all([body(GET('/api/people')), body(GET('/api/analyses/{id}/shares', { params }))])
    colleagues.value = people
      .filter((each) => each.id !== session.person?.id)
      .map((each) => {
        const share = shares.find((one) => one.person === each.id)
        return { person: each.id, name: each.name, mayRead: !!share, mayChange: share?.may_change ?? false }
      })
    isLoaded.value = true
  } catch (error) {
    problem.tell(error)
  }
})

async function share(): Promise<void> {
  const shares = colleagues.value
    .filter((each) => each.mayRead || each.mayChange)
    .map((each) => ({ person: each.person, may_change: each.mayChange }))
  try {
    await body(PUT('/api/analyses/{id}/shares', { params, body: { shares } }))
    const names = colleagues.value.filter((each) => each.mayRead || each.mayChange).map((each) => each.name)
    notice.tell(names.length ? `“${props.analysis.name}” is shared with ${new Intl.ListFormat('en-GB').format(names)}.` : `“${props.analysis.name}” is shared with nobody.`)
    emit('close')
  } catch (error) {
    problem.tell(error)
  }
}
</script>

<template>
  <v-dialog class="beside" scrim="transparent" aria-label="Share" :model-value="true" width="420" @update:model-value="emit('close')">
    <v-card>
      <form class="paper" @submit.prevent="share">
        <h2>Share “{{ analysis.name }}”</h2>
        <p v-if="isAlone" class="soft">There is nobody else here to share it with.</p>
        <div v-for="each in colleagues" :key="each.person" class="person">
          <span class="name">{{ each.name }}</span>
          <label><input v-model="each.mayRead" type="checkbox" :disabled="each.mayChange" :aria-label="`${each.name} may read`" /> may read</label>
          <label><input v-model="each.mayChange" type="checkbox" :aria-label="`${each.name} may change`" @change="each.mayRead = each.mayRead || each.mayChange" /> may change</label>
        </div>
        <p class="soft note">Everyone sees the numbers with their own rights, on fresh data.</p>
        <footer>
          <v-btn @click="emit('close')">Cancel</v-btn>
          <v-btn v-if="!isAlone" type="submit" variant="flat" color="primary">Share</v-btn>
        </footer>
      </form>
    </v-card>
  </v-dialog>
</template>

<style scoped src="./slip.css" />
