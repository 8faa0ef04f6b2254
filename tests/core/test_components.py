import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components

from nebrel.core.mesh.components import label_components


@given(
    st.integers(1, 60).flatmap(
        lambda n: st.tuples(
            st.just(n), st.lists(st.tuples(*[st.integers(0, n - 1)] * 2), max_size=80)
        )
    )
)
def test_components_agree_with_a_sparse_graph_library(
    graph: tuple[int, list[tuple[int, int]]],
) -> None:
    count, edges = graph
    ends = np.array(edges, dtype=np.int64).reshape(-1, 2)
    parts, labels = label_components(count, ends[:, 0], ends[:, 1])
    matrix = coo_matrix((np.ones(len(ends)), (ends[:, 0], ends[:, 1])), shape=(count, count))
    wanted, theirs = connected_components(matrix, directed=False)
    assert parts == wanted
    assert set(labels.tolist()) == set(range(parts))
    assert len(set(zip(labels.tolist(), theirs.tolist(), strict=True))) == parts


def test_a_long_chain_is_one() -> None:
    order = np.random.default_rng(1).permutation(100_000)
    assert label_components(100_000, order[:-1], order[1:])[0] == 1
