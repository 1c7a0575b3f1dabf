package org.mnemex.sync.feed;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.ArgumentMatchers.anyInt;
import static org.mockito.ArgumentMatchers.anyList;
import static org.mockito.ArgumentMatchers.anyString;
import static org.mockito.ArgumentMatchers.eq;
import static org.mockito.Mockito.doAnswer;
import static org.mockito.Mockito.doThrow;
import static org.mockito.Mockito.inOrder;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.never;
import static org.mockito.Mockito.timeout;
import static org.mockito.Mockito.verify;
import static org.mockito.Mockito.when;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Clock;
import java.time.Instant;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.stream.Collectors;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.engine.EditionFolder;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Use;
import org.mnemex.sync.definition.FieldDefinition;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.definition.RecordShape;
import org.mnemex.sync.source.Affected;
import org.mnemex.sync.source.AssembledRecord;
import org.mnemex.sync.source.Change;
import org.mnemex.sync.source.Changes;
import org.mnemex.sync.source.NotPreparedException;
import org.mnemex.sync.source.Position;
import org.mnemex.sync.source.PositionLostException;
import org.mnemex.sync.source.ReadColumns;
import org.mnemex.sync.source.RecordContent;
import org.mnemex.sync.source.RecordKey;
import org.mnemex.sync.source.RecordReader;
import org.mnemex.sync.source.Records;
import org.mnemex.sync.source.Requirement;
import org.mnemex.sync.source.Shard;
import org.mnemex.sync.source.Source;
import org.mnemex.sync.source.SourceUnavailableException;
import org.mnemex.sync.source.TableIdentity;

/** What a feed does when its source fails on demand, step by step. */
class FeedTest {
  private static final IndexDefinition PLANTS =
      new IndexDefinition(
          "plants",
          "garden",
          new RecordShape("accession", List.of("no"), null, List.of(), Set.of()),
          List.of(
              new FieldDefinition(
                  Field.of("height", FieldType.INTEGER, null, Use.FILTER),
                  RecordShape.ColumnRef.of("height"),
                  null,
                  List.of(),
                  "Height")),
          "");

  @TempDir private Path folder;
  private final Source source = mock(Source.class);
  private final Source.Capture capture = mock(Source.Capture.class);
  private final RecordReader reader = mock(RecordReader.class);
  private final Quarantine quarantine = mock(Quarantine.class);
  private final Feed.Listener listener = mock(Feed.Listener.class);
  private final Map<String, Object> database = new LinkedHashMap<>();
  private EditionFolder edition;
  private Feed feed;

  @BeforeEach
  void open() throws Exception {
    when(source.capture(anyString(), any())).thenReturn(capture);
    when(source.reader(any(), any(), any(), any())).thenReturn(reader);
    when(source.columns(any())).thenReturn(columns("no", "height"));
    when(capture.now()).thenReturn(at(0));
    when(capture.after(any(), anyInt(), any()))
        .thenAnswer(call -> new Changes(List.of(), call.getArgument(0), true));
    when(reader.readBetween(any(), any())).thenAnswer(call -> records(database.keySet()));
    when(reader.read(any()))
        .thenAnswer(
            call -> {
              Collection<RecordKey> keys = call.getArgument(0);
              return records(keys.stream().map(RecordKey::text).collect(Collectors.toSet()));
            });
    when(reader.affected(anyList(), anyInt()))
        .thenAnswer(
            call -> {
              List<Change> changes = call.getArgument(0);
              Map<RecordKey, Change> causes = new LinkedHashMap<>();
              changes.forEach(
                  change -> causes.put(new RecordKey(List.of(change.columns().get("no"))), change));
              return new Affected(causes, List.of());
            });
    edition = EditionFolder.open(folder, PLANTS.schema());
    feed = newFeed();
  }

  @AfterEach
  void close() throws IOException {
    feed.close();
    edition.close();
  }

  private Feed newFeed() {
    return new Feed(
        new FeedSettings(PLANTS, 1, source, "test", Pace.FREE, null, Shard.WHOLE),
        edition,
        quarantine,
        Clock.systemUTC(),
        listener);
  }

  private static ReadColumns columns(String... names) {
    Map<String, String> types = new LinkedHashMap<>();
    List.of(names).forEach(name -> types.put(name, "int"));
    return new ReadColumns(
        Map.of("accession", new ReadColumns.Table(types, List.of("no"), TableIdentity.UNKNOWN)));
  }

  private static Position at(long number) {
    return new Position("j", number);
  }

  private Records records(Collection<String> keys) {
    List<AssembledRecord> found =
        keys.stream()
            .filter(database::containsKey)
            .map(
                key ->
                    new AssembledRecord(
                        new RecordKey(List.of(key)),
                        RecordContent.of(
                            new LinkedHashMap<>(Map.of("no", key, "height", database.get(key))))))
            .toList();
    return new Records(found, Map.of(), found.size(), null);
  }

  /** The next question for changes is answered with a change of these keys. */
  private void changed(long number, String... keys) throws Exception {
    List<Change> changes =
        List.of(keys).stream()
            .map(key -> new Change("accession", Map.of("no", key), Instant.now(), at(number)))
            .toList();
    when(capture.after(eq(at(number - 1)), anyInt(), any()))
        .thenReturn(new Changes(changes, at(number), true));
  }

  @Test
  void theJournalIsThereBeforeTheFirstRecordIsRead() throws Exception {
    feed.step();
    var order = inOrder(source, capture, reader);
    order.verify(source).prepare(Map.of("accession", Set.of("no")));
    order.verify(capture).now();
    order.verify(capture).done(at(0));
    order.verify(reader).readBetween(null, null);
  }

  /** A table that is being renamed into place is not there, or not whole, for a moment. */
  @Test
  void nothingIsFilledWhileAColumnIsAway() throws Exception {
    database.put("a", 1L);
    when(source.columns(any()))
        .thenReturn(new ReadColumns(Map.of()), columns("no"), columns("no", "height"));
    assertThatThrownBy(feed::step)
        .isInstanceOf(SourceUnavailableException.class)
        .hasMessageContaining("table 'accession' is gone");
    assertThatThrownBy(feed::step)
        .isInstanceOf(SourceUnavailableException.class)
        .hasMessageContaining("column 'accession.height', which field 'height' needs, is gone");
    feed.step();
    assertThat(edition.snapshot().documents()).isEqualTo(1);
    assertThat(FeedCheckpoint.columns(edition.snapshot().checkpoint()))
        .isEqualTo(columns("no", "height"));
  }

  @Test
  void anEditionThatWasFilledWithoutAColumnIsReplaced() throws Exception {
    edition.refresh(
        new FeedCheckpoint(at(0), Instant.now(), columns("no"), Map.of("phase", "live"))
            .toCheckpoint());
    feed.close();
    feed = newFeed();
    assertThatThrownBy(feed::step)
        .isInstanceOf(PositionLostException.class)
        .hasMessageContaining("'accession.height' was not there");
  }

  @Test
  void aSourceThatFailsInTheMiddleOfABatchLosesNothing() throws Exception {
    database.put("a", 1L);
    database.put("b", 1L);
    feed.step();
    assertThat(edition.snapshot().documents()).isEqualTo(2);
    database.put("a", 2L);
    changed(1, "a");
    doThrow(new SourceUnavailableException("cut", null)).when(reader).read(any());
    assertThatThrownBy(feed::step).isInstanceOf(SourceUnavailableException.class);
    assertThat(edition.snapshot().checkpoint().values()).containsEntry("position", "j:0");

    // Back again, and meanwhile the row says what it said before: nothing stale may stay pending.
    doAnswer(call -> records(Set.of("a"))).when(reader).read(any());
    feed.step();
    assertThat(edition.snapshot().checkpoint().values()).containsEntry("position", "j:1");
    assertThat(new String(edition.snapshot().document("a").record(), StandardCharsets.UTF_8))
        .contains("\"height\":2");
    assertThat(feed.lastChanges(10)).hasSize(1);
  }

  @Test
  void whatADiskHasNoRoomForIsAskedForAgain() throws Exception {
    database.put("a", 1L);
    feed.step();
    database.put("a", 2L);
    changed(1, "a");
    // No segment can be written where there is a folder of its name.
    for (int id = 0; id < 100; id++) {
      Path segment = folder.resolve("seg-%d.mnx".formatted(id));
      if (!Files.exists(segment)) {
        Files.createDirectory(segment);
      }
    }
    assertThatThrownBy(feed::step).isInstanceOf(IOException.class);
    assertThat(feed.status().position()).isEqualTo(at(0));
    // Whoever commits now makes durable what was there before, as of then.
    edition.commit();
    feed.abandon();
    edition.close();
    edition = EditionFolder.open(folder, PLANTS.schema());
    assertThat(edition.snapshot().checkpoint().values()).containsEntry("position", "j:0");
    feed = newFeed();
    feed.step();
    assertThat(edition.snapshot().checkpoint().values()).containsEntry("position", "j:1");
    assertThat(new String(edition.snapshot().document("a").record(), StandardCharsets.UTF_8))
        .contains("\"height\":2");
  }

  @Test
  void whatWasMergedIsCommittedByAFeedThatCloses() throws Exception {
    database.put("a", 1L);
    feed.step();
    database.put("b", 1L);
    changed(1, "b");
    feed.step();
    feed.step();
    assertThat(edition.compact(bytes -> {})).isEqualTo(2);
    assertThat(edition.committed()).isLessThan(edition.snapshot().number());
    feed.close();
    assertThat(edition.committed()).isEqualTo(edition.snapshot().number());
  }

  @Test
  void aValueThatDoesNotFitGoesToQuarantineAndComesBack() throws Exception {
    database.put("a", 1L);
    feed.step();
    database.put("a", "tall");
    changed(1, "a");
    feed.step();
    verify(quarantine)
        .put(
            eq("plants"),
            eq(1),
            eq("a"),
            eq("field 'height': 'tall' is not a whole number"),
            any());
    assertThat(edition.snapshot().documents()).isZero();
    database.put("a", 3L);
    changed(2, "a");
    feed.step();
    verify(quarantine).remove("plants", 1, "a");
    assertThat(edition.snapshot().documents()).isEqualTo(1);
  }

  @Test
  void caughtUpIsSaidOnceAlsoAfterARestart() throws Exception {
    database.put("a", 1L);
    feed.step();
    verify(listener, never()).caughtUp();
    changed(1, "a");
    // The source never rests, and still the batch had all there was.
    feed.step();
    verify(listener).caughtUp();
    feed.close();
    edition.close();
    edition = EditionFolder.open(folder, PLANTS.schema());
    Feed.Listener afterRestart = mock(Feed.Listener.class);
    feed =
        new Feed(
            new FeedSettings(PLANTS, 1, source, "test", Pace.FREE, null, Shard.WHOLE),
            edition,
            quarantine,
            Clock.systemUTC(),
            afterRestart);
    assertThat(feed.isComplete()).isTrue();
    feed.step();
    feed.step();
    verify(afterRestart).caughtUp();
  }

  @Test
  void aLostPositionEndsTheFeedAndIsHandedOn() throws Exception {
    when(capture.after(any(), anyInt(), any())).thenThrow(new PositionLostException("trimmed"));
    feed.run();
    verify(listener).positionLost("trimmed");
    assertThat(feed.status().phase()).isEqualTo(FeedStatus.Phase.LOST);
  }

  @Test
  void aFailureThatNobodyForesawIsSaidAndTriedAgain() throws Exception {
    when(capture.after(any(), anyInt(), any()))
        .thenThrow(new OutOfMemoryError("Java heap space"))
        .thenThrow(new IllegalStateException("torn"))
        .thenAnswer(call -> new Changes(List.of(), call.getArgument(0), true));
    List<String> problems = new CopyOnWriteArrayList<>();
    doAnswer(
            call -> {
              assertThat(feed.status().phase()).isEqualTo(FeedStatus.Phase.FAILED);
              problems.add(feed.status().problem());
              // Somebody has resumed it.
              feed.pause(false);
              return null;
            })
        .when(listener)
        .failed(any());
    Thread running = Thread.ofPlatform().start(feed);
    verify(listener, timeout(60_000)).caughtUp();
    feed.stop();
    running.join();
    assertThat(problems).hasSize(2);
    assertThat(problems.getFirst()).contains("does not fit into memory", "-Xmx");
    assertThat(problems.getLast()).isEqualTo("torn");
    assertThat(feed.status().problem()).isNull();
  }

  @Test
  void anUnpreparedSourceIsWaitedForWithItsReason() throws Exception {
    doThrow(
            new NotPreparedException(
                "garden",
                List.of(
                    new Requirement(
                        "a table",
                        false,
                        List.of("CREATE TABLE x;"),
                        Requirement.Kind.PREPARABLE))))
        .when(source)
        .prepare(any());
    Thread running = Thread.ofPlatform().start(feed);
    while (feed.status().problem() == null) {
      Thread.onSpinWait();
    }
    assertThat(feed.status().phase()).isEqualTo(FeedStatus.Phase.WAITING);
    assertThat(feed.status().problem()).contains("CREATE TABLE x;");
    feed.stop();
    running.join();
  }
}
