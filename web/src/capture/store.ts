import { useSyncExternalStore } from "react";

/** State that lives beside the pages and goes on while one turns to another; what shows it subscribes. */
export class Store<State extends object> {
  private listeners = new Set<() => void>();

  constructor(public state: State) {}

  subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  protected set(change: Partial<State>) {
    this.state = { ...this.state, ...change };
    this.listeners.forEach((listener) => listener());
  }
}

/** The state of a store, kept up to date. */
export const useStore = <State extends object>(store: Store<State>): State =>
  useSyncExternalStore(store.subscribe, () => store.state);
