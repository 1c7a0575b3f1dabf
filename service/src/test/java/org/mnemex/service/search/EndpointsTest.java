package org.mnemex.service.search;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.when;

import java.time.Clock;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.mnemex.engine.limit.Helpers;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.schema.Use;
import org.mnemex.grammar.DefinitionKind;
import org.mnemex.grammar.ParsedFile;
import org.mnemex.service.definition.Definition;
import org.mnemex.service.definition.DefinitionReader;
import org.mnemex.service.definition.EndpointDefinition;
import org.mnemex.service.definition.References;
import org.mnemex.service.definition.Vocabulary;
import org.mnemex.service.endpoint.Endpoint;
import org.mnemex.service.install.Installation;
import org.mnemex.service.install.Running;
import org.mnemex.service.install.RunningDefinition.RunningEndpoint;
import org.mnemex.service.install.RunningDefinition.RunningIndex;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;
import org.mnemex.service.store.DefinitionRow;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.edition.Edition;
import org.mnemex.sync.edition.Editions;
import org.mnemex.sync.feed.Feed;
import org.mnemex.sync.feed.FeedStatus;

/** What callers are told while an index cannot answer. */
class EndpointsTest {
  private final Installation installation = mock(Installation.class);
  private final Editions editions = mock(Editions.class);
  private final Edition live = edition();
  private final Endpoints endpoints =
      new Endpoints(installation, new EndpointTrials(Clock.systemUTC()), Helpers.NONE);

  private static Edition edition() {
    IndexDefinition index = mock(IndexDefinition.class);
    when(index.name()).thenReturn("plants");
    when(index.schema())
        .thenReturn(new Schema(List.of(Field.of("name", FieldType.EXACT, null, Use.SHOW))));
    Edition edition = mock(Edition.class);
    when(edition.definition()).thenReturn(index);
    return edition;
  }

  @BeforeEach
  void anIndexAndItsEndpoint() {
    IndexDefinition index = live.definition();
    when(installation.running())
        .thenReturn(
            new Running(
                List.of(
                    new RunningIndex(definition("index: plants"), 1, index, editions),
                    endpoint("search", "name"),
                    endpoint("prices", "price"))));
    when(installation.failures()).thenReturn(Map.of());
  }

  private static Definition definition(String yaml) {
    String whole =
        yaml.startsWith("index")
            ? yaml
                + "\nsource: garden\nrecord: {root: t, key: id}\nfields: {name: {from: n, type: text}}\n"
            : yaml;
    return new DefinitionReader(References.NONE)
        .read(ParsedFile.parts("f.yaml", whole).getFirst(), Vocabulary.BUILT_IN);
  }

  private static RunningEndpoint endpoint(String name, String shown) {
    Definition read =
        definition("endpoint: %s\nindex: plants\nshow: [%s]\n".formatted(name, shown));
    EndpointDefinition endpoint = ((Definition.OfEndpoint) read.content()).endpoint();
    return new RunningEndpoint(read, 1, new Endpoint(List.of(endpoint), 1));
  }

  private void isToldOf(ProblemType type, String endpoint, String detail, int retrySeconds) {
    assertThatThrownBy(() -> endpoints.answering(endpoint))
        .isInstanceOfSatisfying(
            ProblemException.class,
            problem -> {
              assertThat(problem.type()).isEqualTo(type);
              assertThat(problem.retrySeconds()).isEqualTo(retrySeconds);
            })
        .hasMessageContaining(detail);
  }

  @Test
  void theLiveEditionAnswers() {
    when(editions.live()).thenReturn(live);
    assertThat(endpoints.answering("search").edition()).isSameAs(live);
  }

  @Test
  void anIndexThatCannotStartSaysWhy() {
    when(installation.failures())
        .thenReturn(
            Map.of(
                "plants",
                new Installation.Failure(
                    new DefinitionRow(
                        DefinitionKind.INDEX, "plants", 1, "", "", "", "", "", "plants", false),
                    "no folder")));
    isToldOf(ProblemType.INDEX_NOT_RUNNING, "search", "is not running: no folder", 0);
  }

  @Test
  void anIndexThatIsFilledForTheFirstTimeSaysHowFarItIs() {
    Edition next = edition();
    Feed feed = mock(Feed.class);
    when(next.feed()).thenReturn(feed);
    when(feed.status())
        .thenReturn(
            new FeedStatus(FeedStatus.Phase.BACKFILL, null, null, null, 40, 100, 10, 0, -1, -1));
    when(editions.next()).thenReturn(next);
    isToldOf(ProblemType.INDEX_BEING_BUILT, "search", "is being built: 40 of 100 records", 2);
  }

  @Test
  void aDamagedEditionIsNotAsked() {
    when(editions.live()).thenReturn(live);
    when(live.damage()).thenReturn("a byte has changed");
    isToldOf(ProblemType.INDEX_DAMAGED, "search", "is damaged", 2);
  }

  @Test
  void anEndpointWaitsForTheFieldsThatItNeeds() {
    when(editions.live()).thenReturn(live);
    isToldOf(ProblemType.ENDPOINT_WAITS_FOR_EDITION, "prices", "still being filled", 2);
  }
}
