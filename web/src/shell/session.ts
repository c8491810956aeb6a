import { defineStore } from 'pinia'
import { readonly, ref } from 'vue'
import { DELETE, GET, POST, PUT, body, useCsrf } from '@/api/client'
import type { Person } from '@/api/types'

export const useSession = defineStore('session', () => {
  const person = ref<Person | null>(null)
  const isAdministrator = ref(false)
  /** The name of the person with whose rights models are looked at; one's own without. */
  const seesAs = ref<string | null>(null)

  function begin(session: { person: Person; csrf: string; is_administrator: boolean; sees_as?: string | null }): void {
    person.value = session.person
    isAdministrator.value = session.is_administrator
    seesAs.value = session.sees_as ?? null
    useCsrf(session.csrf)
  }

  /** Takes up a session that the browser still has; false when nobody is signed in. */
  async function resume(): Promise<boolean> {
    if (person.value) return true
    try {
      begin(await body(GET('/api/session')))
      return true
    } catch {
      return false
    }
  }

  async function signIn(signInName: string, password: string): Promise<void> {
    begin(await body(POST('/api/session', { body: { sign_in: signInName, password } })))
  }

  /** Comes in by a link, with the password that was chosen. */
  async function comeIn(token: string, password: string): Promise<void> {
    begin(await body(POST('/api/welcome/{token}', { params: { path: { token } }, body: { password } })))
  }

  /** Looks at models with another person's rights, or with one's own again. */
  async function seeAs(id: string | null): Promise<void> {
    await body(PUT('/api/administration/see-as', { body: { person: id } }))
    begin(await body(GET('/api/session')))
  }

  async function signOut(): Promise<void> {
    await body(DELETE('/api/session'))
    person.value = null
    useCsrf('')
  }

  return {
    person: readonly(person),
    isAdministrator: readonly(isAdministrator),
    seesAs: readonly(seesAs),
    resume,
    signIn,
    comeIn,
    seeAs,
    signOut,
  }
})
