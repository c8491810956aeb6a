<script setup lang="ts">
// Tokens by which one's other programs read: made, told once, and ended.
import { computed, onMounted, ref, shallowRef } from 'vue'
import { DELETE, GET, POST, body } from '@/api/client'
import type { Token } from '@/api/types'
import { whenSaid } from '@/library/entries'
import { useProblem } from './problem'

const problem = useProblem()
const tokens = shallowRef<Token[] | null>(null)
const name = ref('')
const days = ref(90)
const analysis = ref<string | null>(null)
const analyses = shallowRef<{ title: string; value: string | null }[]>([])
/** The one that was made last, which is told this once. */
const made = ref('')
const DAYS = [7, 30, 90, 365].map((value) => ({ title: `${value} days`, value }))
const now = computed(() => new Date().toISOString())

async function load(): Promise<void> {
  tokens.value = await body(GET('/api/tokens'))
}

async function make(): Promise<void> {
  try {
    made.value = (
      await body(POST('/api/tokens', { body: { name: name.value, days: days.value, analysis: analysis.value } }))
    ).token
    name.value = ''
    await load()
  } catch (error) {
    problem.tell(error)
  }
}

async function end(token: Token): Promise<void> {
  try {
    await body(DELETE('/api/tokens/{id}', { params: { path: { id: token.id } } }))
    await load()
  } catch (error) {
    problem.tell(error)
  }
}

onMounted(async () => {
  try {
    await load()
    const library = await body(GET('/api/library'))
    analyses.value = [
      { title: 'everything that I may see', value: null },
      ...library.entries.map((entry) => ({ title: entry.name, value: entry.id })),
    ]
  } catch (error) {
    problem.tell(error)
  }
})
</script>

<template>
  <h2>Tokens for other programs</h2>
  <p class="lead">
    With one, a spreadsheet, a notebook or another tool reads analyses as they are now, as far as you may see: as a
    password, or as Bearer. It changes nothing here.
  </p>
  <table v-if="tokens?.length" aria-label="Tokens">
    <thead>
      <tr>
        <th scope="col">For</th>
        <th scope="col">Reads</th>
        <th scope="col">Until</th>
        <th scope="col">Used last</th>
        <th scope="col"><span class="unseen">What can be done</span></th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="token in tokens" :key="token.id">
        <td>{{ token.name }}</td>
        <td>{{ token.item_name ?? 'everything' }}</td>
        <td :class="{ soft: token.expires_at < now }">
          {{ whenSaid(token.expires_at) }}{{ token.expires_at < now ? ', over' : '' }}
        </td>
        <td class="soft">{{ token.used_at ? `${whenSaid(token.used_at)}, from ${token.used_from}` : 'never' }}</td>
        <td>
          <button
            type="button"
            class="plain-button act"
            :aria-label="`End the token for ${token.name}`"
            @click="end(token)"
          >
            end it
          </button>
        </td>
      </tr>
    </tbody>
  </table>
  <p v-if="made" class="made" role="status">
    The token is told this once: <code>{{ made }}</code>
  </p>
  <form class="new" @submit.prevent="make">
    <v-text-field v-model="name" label="What it is for" />
    <v-autocomplete
      v-model="analysis"
      label="Reads"
      :items="analyses"
      variant="outlined"
      density="compact"
      hide-details
    />
    <v-select v-model="days" label="Holds for" :items="DAYS" class="days" />
    <v-btn type="submit" variant="flat" color="primary" height="40" :disabled="!name.trim()">Make a token</v-btn>
  </form>
</template>

<style scoped src="../admin/part.css" />
<style scoped>
h2 {
  margin: 34px 0 4px;
  font: 600 20px/26px var(--serif);
}

table {
  max-width: 900px;
}

.new {
  display: flex;
  gap: 10px;
  max-width: 900px;
  margin-top: 14px;
}

.days {
  flex: none;
  width: 140px;
}

.made {
  max-width: 900px;
  padding: 8px 12px;
  background: rgb(var(--v-theme-saffron-tint));
}

code {
  user-select: all;
}
</style>
