// What the page uses of Alpine, for the type check.
declare const Alpine: {
  data(name: string, make: (this: any) => object): void;
  start(): void;
  reactive<T>(target: T): T;
  raw<T>(target: T): T;
};
export default Alpine;
