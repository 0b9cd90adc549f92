// What the page uses of Alpine.
declare module "*/alpine-csp.esm.min.js" {
  const Alpine: {
    data(name: string, make: () => object): void;
    start(): void;
    reactive<T>(target: T): T;
    raw<T>(target: T): T;
  };
  export default Alpine;
}
