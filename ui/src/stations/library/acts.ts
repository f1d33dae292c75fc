/** What can be done with the values of a color from its sheet; each tells whether it was done. */
export interface SheetActs {
  readonly busy: boolean;
  approveBuild: (value: string, press?: string) => Promise<boolean>;
  dropBuild: (press?: string) => Promise<boolean>;
  approveInk: (code: string, stock?: string) => Promise<boolean>;
  dropInk: (stock?: string) => Promise<boolean>;
  /** Opens the amendment by which another value decides. */
  letDecide: (value: string) => void;
}
