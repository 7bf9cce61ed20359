import { t } from "@lingui/core/macro";
import { useKeys } from "../../parts/keys";
import { Title } from "../../parts/marks";
import { Failed, Loading } from "../../parts/states";
import { FilterBar, ladderFits, NothingFits, useFilters } from "./filters";
import { Head, ShelfTabs } from "./head";
import { useShelf } from "./hooks";
import { LadderRow } from "./ladderrow";

export function ShelfView() {
  const shelf = useShelf();
  const [f, set, clear] = useFilters();
  useKeys([
    { show: "← →", does: t`step through the notches of the focused ladder` },
    { show: "Tab", does: t`to the next ladder` },
  ]);
  if (shelf.isPending) return <Loading what={t`the shelf`} />;
  if (shelf.error) return <Failed error={shelf.error} retry={() => void shelf.refetch()} />;
  const s = shelf.data;
  const list = s.ladders.filter((l) => ladderFits(l, f, s));
  const families = [...new Set(list.map((l) => l.family))];
  return (
    <>
      <Head
        title={t`Shelf`}
        page={t`Ladders`}
        line={t`${s.ladders.length} ladders, ${s.exercises.length} exercises. Change what your practice does differently; plans already made keep what they prescribed.`}
        to="/shelf/ladders/new"
        button={t`Own ladder`}
      />
      <ShelfTabs />
      <FilterBar s={s} f={f} set={set} what={t`ladders`} />
      <p className="sr-only" role="status">
        {t`${list.length} ladders`}
      </p>
      {list.length === 0 && <NothingFits clear={clear} />}
      {families.map((family) => (
        <section key={family} aria-label={family} className="mb-6">
          <Title>{family}</Title>
          {list
            .filter((l) => l.family === family)
            .map((l) => (
              <LadderRow key={l.id} l={l} s={s} />
            ))}
        </section>
      ))}
    </>
  );
}
