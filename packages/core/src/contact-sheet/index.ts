export { layOutSheet, PAGE_HEIGHT, PAGE_WIDTH, type SheetCell, type SheetContent, type SheetPage, type SheetText } from './layout.ts';
export { ContactSheetError, planContactSheet, spreadFrames, titleSheet, type SheetSection } from './plan.ts';
export { contactSheetSettingsSchema, MOST_PICTURES, type ContactSheetSettings } from './settings.ts';
