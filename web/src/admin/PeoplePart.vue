<script setup lang="ts">
// Who sees what, and why: each person as a sentence, with what can be taken back in it.
import { reactive, ref, shallowRef } from 'vue'
import { useRouter } from 'vue-router'
import { DELETE, POST, PUT, body } from '@/api/client'
import type { AdministeredPerson, Sight } from '@/api/types'
import { useSession } from '@/shell/session'
import GrantSlip from './GrantSlip.vue'
import LinkSlip from './LinkSlip.vue'
import { useAdministration } from './useAdministration'

const { all, change } = useAdministration()
const session = useSession()
const router = useRouter()
const added = reactive({ sign_in: '', name: '', signs_on: false })
const link = shallowRef<{ path: string; name: string } | null>(null)
const granting = ref<AdministeredPerson | null>(null)
const pathOf = (person: AdministeredPerson) => ({ params: { path: { id: person.id } } })

function stateOf(person: AdministeredPerson): string {
  if (person.is_disabled) return 'shut out'
  if (!person.has_password && person.signs_on === 'awaited')
    return `may come in by ${all.value?.provider ?? 'the provider'}`
  if (!person.has_password && person.signs_on === 'no') return person.is_invited ? 'invited' : 'cannot sign in'
  return person.sessions ? `signed in, ${person.sessions === 1 ? 'once' : `${person.sessions} times`}` : 'not signed in'
}

async function add(): Promise<void> {
  const name = added.name
  const made = await change(() => body(POST('/api/administration/people', { body: { ...added } })))
  if (!made) return
  link.value = { ...made, name }
  added.sign_in = added.name = ''
}

async function invite(person: AdministeredPerson): Promise<void> {
  const made = await change(() => body(POST('/api/administration/people/{id}/link', pathOf(person))))
  if (made) link.value = { ...made, name: person.name }
}

function set(
  person: AdministeredPerson,
  what: { is_disabled?: boolean; is_administrator?: boolean; signs_on?: boolean },
): void {
  void change(() => body(PUT('/api/administration/people/{id}', { ...pathOf(person), body: what })))
}

function signOut(person: AdministeredPerson): void {
  void change(() => body(DELETE('/api/administration/people/{id}/sessions', pathOf(person))))
}

function take(person: AdministeredPerson, sight: Sight): void {
  void change(() =>
    body(DELETE('/api/administration/grants', { body: { model: sight.model, person: person.id, role: sight.role } })),
  )
}

async function seeAs(person: AdministeredPerson): Promise<void> {
  const done = await change(async () => {
    await session.seeAs(person.id)
    return true
  })
  if (done) await router.push('/')
}
</script>

<template>
  <h1>People</h1>
  <p class="lead">Nobody sees anything of a model that was not granted to them, or to a group that they are in.</p>
  <table v-if="all" aria-label="Who sees what">
    <thead>
      <tr>
        <th scope="col">Name</th>
        <th scope="col">Sees</th>
        <th scope="col">State</th>
        <th scope="col"><span class="unseen">What can be done</span></th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="person in all.people" :key="person.id">
        <td>
          <strong>{{ person.name }}</strong>
          <div class="soft">
            {{ person.sign_in }}<template v-if="person.is_administrator">, administrator</template
            ><template v-if="person.signs_on === 'yes'">, by {{ all.provider ?? 'the provider' }}</template>
          </div>
        </td>
        <td>
          <div v-for="sight in person.sees" :key="`${sight.model}/${sight.role}/${sight.group}`">
            {{ sight.caption }}, <em>{{ sight.words }}</em>
            <span v-if="sight.group" class="soft"> as one of {{ sight.group }}</span>
            <button
              v-else
              type="button"
              class="plain-button act"
              :aria-label="`take back ${sight.caption} from ${person.name}`"
              @click="take(person, sight)"
            >
              take back
            </button>
          </div>
          <div v-if="!person.sees.length" class="soft">nothing</div>
          <button
            type="button"
            class="plain-button act"
            :aria-label="`Grant a model to ${person.name}`"
            @click="granting = person"
          >
            grant a model…
          </button>
        </td>
        <td>{{ stateOf(person) }}</td>
        <td>
          <div class="acts">
            <button v-if="!person.is_disabled" type="button" class="plain-button act" @click="seeAs(person)">
              see as {{ person.name }}
            </button>
            <button v-if="!person.is_disabled" type="button" class="plain-button act" @click="invite(person)">
              {{ person.has_password ? 'new password by a link' : 'new link' }}
            </button>
            <button v-if="person.sessions" type="button" class="plain-button act" @click="signOut(person)">
              sign out everywhere
            </button>
            <button
              v-if="all.provider && !person.is_disabled"
              type="button"
              class="plain-button act"
              @click="set(person, { signs_on: person.signs_on === 'no' })"
            >
              {{ person.signs_on === 'no' ? 'let in' : 'no longer' }} by {{ all.provider }}
            </button>
            <template v-if="person.id !== session.person?.id">
              <button
                type="button"
                class="plain-button act"
                @click="set(person, { is_administrator: !person.is_administrator })"
              >
                {{ person.is_administrator ? 'no longer administrator' : 'make administrator' }}
              </button>
              <button type="button" class="plain-button act" @click="set(person, { is_disabled: !person.is_disabled })">
                {{ person.is_disabled ? 'let in again' : 'shut out' }}
              </button>
            </template>
          </div>
        </td>
      </tr>
    </tbody>
  </table>
  <form v-if="all" class="line" @submit.prevent="add">
    <v-text-field v-model="added.name" label="Name" maxlength="200" />
    <v-text-field v-model="added.sign_in" label="Signs in as" maxlength="100" />
    <v-checkbox v-if="all.provider" v-model="added.signs_on" :label="`by ${all.provider}`" />
    <v-btn
      type="submit"
      variant="flat"
      color="primary"
      height="32"
      :disabled="!added.name.trim() || !added.sign_in.trim()"
      >Invite</v-btn
    >
  </form>
  <LinkSlip v-if="link" :path="link.path" :name="link.name" :provider="all?.provider" @close="link = null" />
  <GrantSlip
    v-if="granting && all"
    :models="all.models"
    :to="granting.name"
    :given="{ person: granting.id }"
    :change="change"
    @close="granting = null"
  />
</template>

<style scoped src="./part.css" />
<style scoped>
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 0 14px;
  max-width: 400px;
}

.acts .act:not(:hover, :focus-visible) {
  text-decoration: none;
}

td > div > .act {
  margin-left: 6px;
}

.acts > .act {
  margin-left: 0;
}
</style>
