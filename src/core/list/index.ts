export { GROUPINGS, SIZE_STEPS, type Group, type Grouping } from "./group";
export {
  EMPTY_LISTING,
  groupOf,
  isHead,
  listingOf,
  matchingRows,
  searched,
  type Arrangement,
  type Gathered,
  type Listing,
} from "./listing";
export { ORDERS, type ListOrder } from "./order";
export {
  all,
  countSelected,
  inverted,
  isEmpty,
  isSelected,
  NONE,
  selectedIds,
  toggled,
  withIds,
  type Selection,
} from "./selection";
export { scrolledTo, TALLEST_PX, viewportOf, type Scrolling, type Viewport } from "./viewport";
export { Tally, WEEK_MS, type Count, type Tallied } from "./tally";
export { byImportance, importanceOf, type Weighable, type Weighed } from "./importance";
