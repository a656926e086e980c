import { db } from '../db/connection'
import { forecasterInThread, keepForecaster } from '../forecaster'

/** Forecasts are worked out in a thread of their own, so that nobody else waits for them. */
export default defineNitroPlugin(nitro => {
  const forecaster = forecasterInThread('at once')
  keepForecaster(db(), forecaster)
  nitro.hooks.hook('close', () => forecaster.close())
})
