export interface Item {
  readonly code: string
  readonly name: string
  readonly kind: 'goods' | 'service' | 'shipping'
  readonly taxCode: 'GOODS' | 'FOOD' | 'SERVICE' | 'SHIPPING'
  /** Cents. */
  readonly price: number
  readonly most: number
}
const item = (code: string, name: string, taxCode: Item['taxCode'], price: number, most: number): Item => ({
  code, name, taxCode, price, most, kind: taxCode === 'SERVICE' ? 'service' : taxCode === 'SHIPPING' ? 'shipping' : 'goods',
})

export const SHIPPING = item('SHIP', 'Shipping', 'SHIPPING', 1850, 1)
export const ITEMS: readonly Item[] = [
  item('HIVE-10', 'Cedar hive, ten frames', 'GOODS', 33000, 12),
  item('HIVE-8', 'Pine hive, eight frames', 'GOODS', 21450, 10),
  item('FRAME-D', 'Deep frame, waxed', 'GOODS', 495, 80),
  item('SMOKER', 'Smoker, stainless steel', 'GOODS', 4695, 6),
  item('SUIT-V', 'Ventilated suit with veil', 'GOODS', 13995, 4),
  item('EXTRACT', 'Honey extractor, four frames', 'GOODS', 48915, 2),
  item('TOOL-J', 'Hive tool, J hook', 'GOODS', 1275, 12),
  item('HONEY-5', 'Clover honey, 500 g jar', 'FOOD', 1149, 48),
  item('HONEY-H', 'Heather honey, 250 g jar', 'FOOD', 925, 48),
  item('INSPECT', 'Hive inspection', 'SERVICE', 8500, 5),
  SHIPPING,
]

export const CUSTOMERS: readonly string[] = [
  'Harrowgate Orchards', 'Blythe & Daughters', 'Thistledown Farm', 'Ostler Nurseries', 'The Candle Loft', 'Penhallow Market Garden', 'Ravel Street Grocers',
  'Kestrel Hill Estate', 'Northbank Allotments', 'Marchbank Preserves', 'Sable Creek Honey', 'Wexcombe College of Agriculture and Rural Crafts', 'Dovecote Kitchens',
  'Little Acre', 'Tolliver Brothers', 'Greywater Farm Shop', 'Juniper Row Bakery', 'Fallowfield Trust', 'Amberley Apiaries', 'Hobb’s End Nursery',
]
