import type { Role } from '../core/people'

/** The demo's people; they exist only where the demo is loaded. */
export const DEMO_TODAY = '2026-11-16'
export const DEMO_PASSWORD = 'kelp-and-tide'
export const DEMO_PEOPLE: { email: string; name: string; role: Role }[] = [
  { email: 'controller@wrackline.example', name: 'Isla Corrin', role: 'controller' },
  { email: 'cash@wrackline.example', name: 'Dermot Vane', role: 'cash' },
  { email: 'supervisor@wrackline.example', name: 'Agnes Holloway', role: 'supervisor' },
  { email: 'treasurer@wrackline.example', name: 'Piers Lockwood', role: 'treasurer' },
  { email: 'sales@wrackline.example', name: 'Maeve Tully', role: 'sales' },
  { email: 'auditor@wrackline.example', name: 'Bruno Eck', role: 'auditor' },
  { email: 'administrator@wrackline.example', name: 'Oda Fennick', role: 'administrator' },
  // Looks after every fifth account, and is away this week: the other controller stands in.
  { email: 'colleague@wrackline.example', name: 'Tadhg Rowe', role: 'controller' },
]
