/** UTF-16 units of what is written beside a rule. */
export const LONGEST_REMARK = 2000;
