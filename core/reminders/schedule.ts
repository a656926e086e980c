import { weekday, type IsoDate } from '../calendar'

/** A weekly run prepared by itself. A person confirms it, but for the first level if the house says so. */
export interface ReminderSchedule {
  /** 1: Monday, to 5: Friday. */
  weekday: number
  /** Empty: each customer by its own. */
  policy: string
  /** Notices of the first level go out without a person. */
  levelOneBySelf: boolean
  /** In whose name. */
  personId: number
}

/** Whether the run of a schedule is prepared on a day. */
export const isScheduled = (schedule: ReminderSchedule | null, day: IsoDate): boolean =>
  schedule !== null && weekday(day) === schedule.weekday
