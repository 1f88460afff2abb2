import fc from 'fast-check'

fc.configureGlobal({ seed: 20261128 })
