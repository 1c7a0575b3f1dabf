package org.mnemex.service.node;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.when;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.mnemex.service.insight.RecordedSearches;
import org.mnemex.service.install.Installation;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.publish.News;
import org.mnemex.service.publish.Publications;
import org.mnemex.service.publish.StoreView;
import org.mnemex.service.publish.StoreView.StoredEdition;

/** What a builder knows of its search nodes. */
class SearchNodesTest {
  private static final Instant START = Instant.parse("2026-05-01T08:00:00Z");

  private final Clock clock = mock(Clock.class);
  private final Publications publications = mock(Publications.class);
  private final SearchNodes nodes =
      new SearchNodes(
          publications, new News(), mock(RecordedSearches.class), mock(Installation.class), clock);

  @BeforeEach
  void publish() {
    when(publications.isOn()).thenReturn(true);
    published("2026-05-01T07:59:59Z");
    at(0);
  }

  private void at(int seconds) {
    when(clock.instant()).thenReturn(START.plusSeconds(seconds));
  }

  private void published(String written) {
    when(publications.view()).thenReturn(view(null, written));
  }

  private static StoreView view(@Nullable String problem, String... written) {
    List<StoredEdition> editions =
        Stream.of(written)
            .map(
                when ->
                    new StoredEdition("plants", null, 3, true, "2026-05-01T07:59:58Z", when, 2, 10))
            .toList();
    return new StoreView("folder", "search", problem, null, null, null, editions, null, null);
  }

  private void report(String name, StoreView view) throws InterruptedException {
    // Without anything known before, there is nothing to wait for.
    assertThat(nodes.report(name, new NodeReport(null, view, null, null)).objects()).isNull();
  }

  private String seen() {
    return String.join(
        ", ",
        nodes.all().stream()
            .map(
                node ->
                    "%s %s %s"
                        .formatted(
                            node.name(),
                            node.state(),
                            node.editions().stream().map(NodeView.NodeEdition::lagMillis).toList()))
            .toList());
  }

  @Test
  void aNodeIsHereThenAwayThenForgotten() throws Exception {
    report("rose", view("no room", "2026-05-01T07:59:59Z"));
    at(10);
    report("fern", view(null));
    assertThat(seen()).isEqualTo("fern here [], rose here [1000]");
    assertThat(nodes.all().getLast().problem()).isEqualTo("no room");
    at(31);
    assertThat(seen()).isEqualTo("fern here [], rose away [1000]");
    nodes.leave("fern");
    at((int) Duration.ofHours(1).toSeconds());
    assertThat(seen()).isEqualTo("rose away [1000]");
    at((int) Duration.ofHours(1).toSeconds() + 1);
    assertThat(seen()).isEmpty();
  }

  @Test
  void itIsKnownHowLongANodeTookToHaveWhatWasPublished() throws Exception {
    at(2);
    report("fern", view(null, "2026-05-01T07:00:00Z"));
    assertThat(seen()).as("an older state").isEqualTo("fern here [null]");
    report("fern", view(null, "2026-05-01T07:59:59Z"));
    at(5);
    report("fern", view(null, "2026-05-01T07:59:59Z"));
    assertThat(seen()).as("when it was told first").isEqualTo("fern here [3000]");
    published("2026-05-01T08:00:04Z");
    report("fern", view(null, "2026-05-01T08:00:04Z"));
    assertThat(seen()).isEqualTo("fern here [1000]");
  }

  @Test
  void withoutAStoreOrWithTooManyNodesNothingIsTold() throws Exception {
    for (int i = 0; i < 1_000; i++) {
      report("node-" + i, view(null));
    }
    assertThatThrownBy(() -> report("another", view(null)))
        .isInstanceOf(ProblemException.class)
        .hasMessageContaining("more than 1,000 search nodes");
    report("node-7", view(null));
    when(publications.problem()).thenReturn("another run has taken over");
    assertThatThrownBy(() -> report("node-7", view(null)))
        .hasMessageContaining("another run has taken over");
    when(publications.isOn()).thenReturn(false);
    assertThatThrownBy(() -> report("node-7", view(null)))
        .hasMessageContaining("the service has no store");
  }
}
