import { importRoute } from '~~/server/utils/importRoute'

export default importRoute('import-documents')
