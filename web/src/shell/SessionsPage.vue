<script setup lang="ts">
// Where a person is signed in, and a way to end each.
import { computed, onMounted, ref, shallowRef } from 'vue'
import { useRouter } from 'vue-router'
import { DELETE, GET, body } from '@/api/client'
import type { OwnSession } from '@/api/types'
import { whenSaid } from '@/library/entries'
import { useProblem } from './problem'
import TokenList from './TokenList.vue'
import TopStrip from './TopStrip.vue'

const problem = useProblem()
const router = useRouter()
const sessions = shallowRef<OwnSession[] | null>(null)

const FEW = 6
const showsAll = ref(false)
const shown = computed(() => (showsAll.value ? sessions.value : sessions.value?.slice(0, FEW)) ?? [])

async function load(): Promise<void> {
  sessions.value = await body(GET('/api/sessions'))
}

async function end(session: OwnSession): Promise<void> {
  try {
    await body(DELETE('/api/sessions/{id}', { params: { path: { id: session.id } } }))
    if (session.is_this) await router.push({ name: 'sign-in' })
    else await load()
  } catch (error) {
    problem.tell(error)
  }
}

/** The browser and its system, of the long line by which browsers call themselves. */
function browserOf(session: OwnSession): string {
  const name = /(Firefox|Edg|Chrome|Safari)\/\d+/.exec(session.browser)?.[0].replace('/', ' ').replace('Edg', 'Edge')
  const system = /(Windows|Mac OS X|Android|Linux|iPhone|iPad)/.exec(session.browser)?.[0]
  return [name ?? session.browser.slice(0, 40), system].filter(Boolean).join(', ')
}

onMounted(() => load().catch(problem.tell))
</script>

<template>
  <div class="page">
    <TopStrip />
    <main>
      <h1>Where you are signed in</h1>
      <p class="lead">End what you do not know, then choose another password with an administrator's help.</p>
      <table v-if="sessions" aria-label="Sessions">
        <thead>
          <tr>
            <th scope="col">Since</th>
            <th scope="col">Browser</th>
            <th scope="col">From</th>
            <th scope="col"><span class="unseen">What can be done</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="session in shown" :key="session.id">
            <td>{{ whenSaid(session.began_at) }}</td>
            <td>{{ browserOf(session) }}<span v-if="session.is_this" class="soft">, this one</span></td>
            <td class="soft">{{ session.address }}</td>
            <td>
              <button type="button" class="plain-button act" @click="end(session)">
                {{ session.is_this ? 'sign out' : 'end it' }}
              </button>
            </td>
          </tr>
        </tbody>
      </table>
      <button
        v-if="sessions && sessions.length > shown.length"
        type="button"
        class="plain-button act"
        @click="showsAll = true"
      >
        {{ sessions.length - shown.length }} more
      </button>
      <TokenList />
    </main>
  </div>
</template>

<style scoped src="../admin/part.css" />
<style scoped>
.page {
  display: flex;
  flex-direction: column;
  height: 100vh;
}

main {
  flex: 1;
  padding: 26px 40px 60px;
  overflow: auto;
  background: rgb(var(--v-theme-surface));
}

table {
  max-width: 760px;
}
</style>
