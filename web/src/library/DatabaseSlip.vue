<script setup lang="ts">
// Tables of a database, fetched into a model: a connection is chosen or made, then tables are ticked, or a query is written.
import { computed, onMounted, ref, shallowRef, watch } from 'vue'
import { ApiError, DELETE, GET, POST, body } from '@/api/client'
import type { BroughtModel, DatabaseTable, ListedConnection } from '@/api/types'
import { vFirstField } from '@/workspace/firstField'
import { useWaiting } from '@/workspace/waiting'

const emit = defineEmits<{ made: [model: BroughtModel]; close: [] }>()
const { waiting, follow, takeBack } = useWaiting()
const known = shallowRef<ListedConnection[] | null>(null)
const chosen = ref('')
const asked = ref({
  caption: '',
  host: '',
  port: 5432,
  database: '',
  sign_in: '',
  password: '',
  encryption: 'prefer' as const,
})
const tables = shallowRef<DatabaseTable[] | null>(null)
const ticked = ref(new Set<string>())
const words = ref('')
const query = ref({ name: '', text: '' })
const isWriting = ref(false)
const trouble = ref('')
const isForgetting = ref(false)
const doing = ref('')
const connection = computed(() => known.value?.find((each) => each.id === chosen.value) ?? null)
const found = computed(() =>
  (tables.value ?? []).filter((each) =>
    keyOf(each).toLocaleLowerCase().includes(words.value.trim().toLocaleLowerCase()),
  ),
)
// A database may have thousands: what is in nobody's sight is found by its name.
const listed = computed(() => found.value.slice(0, MOST_LISTED))
const wanted = computed(() => [
  ...(tables.value ?? [])
    .filter((each) => ticked.value.has(keyOf(each)))
    .map((each) => ({ name: each.name, schema_name: each.schema, query: '' })),
  ...(isWriting.value && query.value.text.trim()
    ? [{ name: query.value.name.trim() || 'query', schema_name: '', query: query.value.text }]
    : []),
])
const MOST_LISTED = 200
const COUNT = new Intl.NumberFormat('en-GB')

function keyOf(each: DatabaseTable): string {
  return `${each.schema}.${each.name}`
}

/** Does something that may fail, which is said where it stands. */
async function trying(what: string, work: () => Promise<void>): Promise<void> {
  trouble.value = ''
  doing.value = what
  try {
    await work()
  } catch (error) {
    if (!(error instanceof ApiError)) throw error
    if (error.code !== 'cancelled') trouble.value = `${error.message} ${error.hint}`
  } finally {
    doing.value = ''
  }
}

onMounted(() =>
  trying('', async () => {
    known.value = await body(GET('/api/connections'))
    chosen.value = known.value[0]?.id ?? ''
  }),
)

watch(chosen, (id) => {
  tables.value = null
  ticked.value = new Set()
  trouble.value = ''
  isForgetting.value = false
  if (id)
    void trying(
      'Asking it what it has…',
      async () => void (tables.value = await body(GET('/api/connections/{id}/tables', { params: { path: { id } } }))),
    )
})

function connect(): Promise<void> {
  return trying('Connecting…', async () => {
    const { host, database } = asked.value
    const made = await body(
      POST('/api/connections', {
        body: { ...asked.value, caption: asked.value.caption.trim() || `${database} at ${host}` },
      }),
    )
    known.value = [...(known.value ?? []), made]
    asked.value.password = ''
    chosen.value = made.id
  })
}

function forget(): Promise<void> {
  return trying('', async () => {
    const response = await DELETE('/api/connections/{id}', { params: { path: { id: chosen.value } } })
    if (response.error) return
    known.value = (known.value ?? []).filter((each) => each.id !== chosen.value)
    chosen.value = known.value[0]?.id ?? ''
  })
}

function tick(each: DatabaseTable): void {
  const next = new Set(ticked.value)
  if (!next.delete(keyOf(each))) next.add(keyOf(each))
  ticked.value = next
}

function bring(): Promise<void> {
  return trying('Fetching', async () => {
    const path = { id: chosen.value }
    const brought = await follow((question) =>
      body(
        POST('/api/connections/{id}/fetched', {
          params: { path, query: { question } },
          body: { tables: wanted.value },
        }),
      ),
    )
    doing.value = 'It is there. Looking at what it holds'
    try {
      emit(
        'made',
        await follow((question) =>
          body(POST('/api/bringing/{id}/model', { params: { path: { id: brought.id }, query: { question } } })),
        ),
      )
    } catch (error) {
      // What was fetched is of no use without its model, and fills the server's disk.
      await DELETE('/api/bringing/{id}', { params: { path: { id: brought.id } } })
      throw error
    }
  })
}

function leave(): void {
  takeBack()
  emit('close')
}
</script>

<template>
  <v-dialog aria-labelledby="database-title" :model-value="true" width="620" scrollable persistent @keydown.esc="leave">
    <v-card>
      <div class="paper">
        <h2 id="database-title">Tables of a database</h2>
        <p v-if="!known" class="soft">Looking…</p>
        <template v-else>
          <label v-if="known.length" class="line">
            <span class="soft">from</span>
            <select v-model="chosen" class="field" aria-label="Connection">
              <option v-for="each in known" :key="each.id" :value="each.id">{{ each.caption }}</option>
              <option value="">another PostgreSQL server…</option>
            </select>
          </label>
          <form v-if="!chosen" id="database-form" @submit.prevent="connect">
            <p class="soft note">
              A PostgreSQL server, and a role of it that may only read. Its password is sealed beside the records.
            </p>
            <label class="line"
              ><span class="soft">server</span
              ><input v-model="asked.host" v-first-field class="field" required placeholder="db.harbour.example"
            /></label>
            <label class="line"
              ><span class="soft">port</span
              ><input v-model.number="asked.port" class="field" type="number" min="1" max="65535" required
            /></label>
            <label class="line"
              ><span class="soft">database</span><input v-model="asked.database" class="field" required
            /></label>
            <label class="line"
              ><span class="soft">role</span><input v-model="asked.sign_in" class="field" required autocomplete="off"
            /></label>
            <label class="line"
              ><span class="soft">password</span
              ><input v-model="asked.password" class="field" type="password" autocomplete="new-password"
            /></label>
            <label class="line">
              <span class="soft">encrypted</span>
              <select v-model="asked.encryption" class="field" aria-label="Encryption of the way there">
                <option value="prefer">where the server can</option>
                <option value="require">always</option>
                <option value="verify-full">always, with a certificate that is the server's own</option>
              </select>
            </label>
            <label class="line"
              ><span class="soft">called</span
              ><input
                v-model="asked.caption"
                class="field"
                :placeholder="asked.database && asked.host ? `${asked.database} at ${asked.host}` : 'Harbour office'"
            /></label>
          </form>
          <template v-else-if="tables">
            <input
              v-if="tables.length > 8"
              v-model="words"
              class="search-field find"
              type="search"
              placeholder="Find by name"
              aria-label="Find a table by name"
            />
            <div class="tables" tabindex="0" role="group" aria-label="Tables and views">
              <label v-for="each in listed" :key="keyOf(each)" class="tick" :title="each.description || undefined">
                <input type="checkbox" :checked="ticked.has(keyOf(each))" @change="tick(each)" />
                <span class="grow"
                  >{{ each.name }}
                  <span class="soft">{{ each.schema }}{{ each.kind === 'view' ? ', a view' : '' }}</span></span
                >
                <span v-if="each.records" class="soft figure">about {{ COUNT.format(each.records) }}</span>
              </label>
              <p v-if="found.length > listed.length" class="soft">
                {{ COUNT.format(found.length - listed.length) }} more: find them by name.
              </p>
              <p v-if="!listed.length" class="soft">
                {{ words ? `Nothing is called “${words}”.` : 'Its role may read no table.' }}
              </p>
            </div>
            <button v-if="!isWriting" type="button" class="plain-button go" @click="isWriting = true">
              Write a query
            </button>
            <div v-else class="query">
              <input
                v-model="query.name"
                class="field"
                placeholder="what its table is called"
                aria-label="What the query's table is called"
              />
              <textarea
                v-model="query.text"
                class="field"
                rows="4"
                placeholder="SELECT day, line, sum(fare) AS fares FROM …"
                aria-label="Query"
                spellcheck="false"
              />
            </div>
          </template>
        </template>
        <p v-if="doing" class="soft note" role="status">{{ doing }}{{ waiting?.words ?? '' }}</p>
        <p v-if="trouble" class="wrong" role="alert">{{ trouble }}</p>
        <footer>
          <template v-if="connection && !doing">
            <button
              v-if="!isForgetting"
              type="button"
              class="plain-button not away"
              title="What was fetched by it stays"
              @click="isForgetting = true"
            >
              Forget this connection…
            </button>
            <span v-else class="away" role="alert"
              >With its password? <button type="button" class="plain-button go" @click="forget">Forget it</button>
              <button type="button" class="plain-button not" @click="isForgetting = false">Keep it</button></span
            >
          </template>
          <v-btn @click="leave">{{ doing ? 'Take it back' : 'Close' }}</v-btn>
          <v-btn
            v-if="!chosen"
            variant="flat"
            color="primary"
            :disabled="!!doing || !asked.host || !asked.database || !asked.sign_in"
            type="submit"
            form="database-form"
            >Connect</v-btn
          >
          <v-btn v-else variant="flat" color="primary" :disabled="!!doing || !wanted.length" @click="bring">{{
            wanted.length > 1 ? `Fetch ${wanted.length} tables` : 'Fetch it'
          }}</v-btn>
        </footer>
      </div>
    </v-card>
  </v-dialog>
</template>

<style scoped src="../workspace/keeping/slip.css" />
<style scoped src="../modelling/fields.css" />
<style scoped>
.line {
  display: grid;
  grid-template-columns: 90px minmax(0, 1fr);
  gap: 10px;
  align-items: baseline;
  padding: 3px 0;
}

.find {
  width: 100%;
  margin: 8px 0;
}

.tables {
  max-height: 300px;
  margin: 8px 0;
  overflow: auto;
}

.tick {
  display: flex;
  gap: 8px;
  align-items: baseline;
  padding: 3px 2px;
  border-bottom: 1px solid rgb(var(--v-theme-hair));
}

.grow {
  flex: 1;
  overflow-wrap: anywhere;
}

.figure {
  white-space: nowrap;
}

.paper > .go {
  align-self: flex-start;
}

.query {
  display: grid;
  gap: 6px;
}

textarea.field {
  font: 13px/18px monospace;
}

.away {
  margin-right: auto;
}

footer {
  align-items: center;
}
</style>
