import { Leaf } from "./leaf";

/** Asks before something that ends or takes away. */
export function Sure({
  title,
  hint,
  yes,
  no,
  act,
  close,
}: {
  title: string;
  hint: string;
  yes: string;
  no: string;
  act: () => void;
  close: () => void;
}) {
  return (
    <Leaf title={title} hint={hint} close={close}>
      <button
        type="button"
        className="press press-main mr-3"
        onClick={() => {
          close();
          act();
        }}
      >
        {yes}
      </button>
      <button type="button" className="press" onClick={close}>
        {no}
      </button>
    </Leaf>
  );
}
