package org.mnemex.sync.edition;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.function.BooleanSupplier;
import java.util.function.Supplier;
import org.mnemex.engine.read.StoredDocument;
import org.mnemex.sync.InMemory;
import org.mnemex.sync.audit.Audit;
import org.mnemex.sync.audit.AuditResult;
import org.mnemex.sync.definition.AuditScope;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.edition.EditionStore.FillPlan;
import org.mnemex.sync.feed.FeedStatus;
import org.mnemex.sync.source.Shard;
import org.mnemex.sync.source.Source;

/** An index that follows a source, as a service would keep it. */
public final class Follower implements AutoCloseable {
  /** A clock that can be put forward. */
  public static final class Jumping extends Clock {
    private volatile Duration ahead = Duration.ZERO;

    /** Puts it forward. */
    public void jump(Duration by) {
      ahead = ahead.plus(by);
    }

    @Override
    public ZoneId getZone() {
      return ZoneOffset.UTC;
    }

    @Override
    public Clock withZone(ZoneId zone) {
      return this;
    }

    @Override
    public Instant instant() {
      return Instant.now().plus(ahead);
    }
  }

  public final Jumping clock = new Jumping();
  public final InMemory.Records quarantine = new InMemory.Records();
  private final InMemory.Editions store = new InMemory.Editions();
  private final IndexDefinition definition;
  private final Source source;
  private final Path folder;
  private final String installation;
  private final Check check;
  private Editions editions;

  private Follower(IndexDefinition definition, Source source, Path folder, Check check) {
    this.check = check;
    this.definition = definition;
    this.source = source;
    this.folder = folder;
    // Replication slots have their names for all databases of a server.
    this.installation = "f" + Long.toString(System.nanoTime(), 36);
    this.editions = newEditions();
  }

  /** Builds an index and waits until it is live. */
  public static Follower start(IndexDefinition definition, Source source, Path folder)
      throws Exception {
    return start(definition, source, folder, (filled, live) -> null);
  }

  /** Looks at a complete edition before it takes the place of a live one. */
  @FunctionalInterface
  public interface Check {
    String objection(Edition filled, Edition live) throws Exception;
  }

  /** The same with a check of its own besides that of the number of documents. */
  public static Follower start(IndexDefinition definition, Source source, Path folder, Check check)
      throws Exception {
    Follower follower = new Follower(definition, source, folder, check);
    follower.editions.build(definition, 1, source, FillPlan.USUAL);
    await(() -> follower.editions.live() != null);
    return follower;
  }

  private Editions newEditions() {
    return new Editions(
        definition.name(),
        definition.keptAs(),
        folder,
        new Builder(installation, Shard.WHOLE),
        store,
        quarantine,
        clock,
        PromotionCheck.ofDocuments().then(this::objection),
        InMemory::leave);
  }

  private String objection(Edition filled, Edition live) {
    try {
      return check.objection(filled, live);
    } catch (Exception e) {
      throw new IllegalStateException(e);
    }
  }

  /** Stops following, as a service that is stopped. */
  public void stop() {
    editions.close();
  }

  /** Goes on after {@link #stop}. */
  public void restart() throws Exception {
    editions = newEditions();
    editions.open(version -> definition, source);
  }

  /** Builds another edition of the same definition. */
  public void build() throws IOException {
    editions.build(definition, 1, source, FillPlan.USUAL);
  }

  public Editions editions() {
    return editions;
  }

  public Edition live() {
    Edition live = editions.live();
    assertThat(live).isNotNull();
    return live;
  }

  public FeedStatus status() {
    return live().feed().status();
  }

  public int documents() {
    return live().folder().snapshot().documents();
  }

  public List<String> keys() {
    List<String> keys = new ArrayList<>();
    live().folder().snapshot().forEachHash((key, hash) -> keys.add(key));
    return keys;
  }

  /** The stored record of a document, as JSON. */
  public String record(String key) {
    StoredDocument document = live().folder().snapshot().document(key);
    assertThat(document).as(key).isNotNull();
    return new String(document.record(), StandardCharsets.UTF_8);
  }

  /** Waits until the live edition is true for a moment after this call. */
  public void awaitTrue() throws InterruptedException {
    Instant now = clock.instant();
    await(
        () -> {
          Edition live = editions.live();
          Instant trueAt = live == null ? null : live.feed().trueAt();
          return trueAt != null
              && trueAt.isAfter(now)
              && live.feed().phase() == FeedStatus.Phase.LIVE;
        });
  }

  public AuditResult audit(boolean repair) throws Exception {
    await(() -> status().phase() == FeedStatus.Phase.LIVE);
    return new Audit(live(), source, quarantine, new AuditScope.All(), clock).run(repair);
  }

  /** Waits until an edition is live, and lets an audit say that it is true. */
  public void awaitTruth(int edition) throws Exception {
    await(
        () -> {
          Edition live = editions.live();
          return live != null && live.number() == edition && editions.next() == null;
        });
    awaitTrue();
    assertThat(audit(false).statement()).contains("; 0 missing, 0 stale, 0 extra;");
    assertThat(live().number()).isEqualTo(edition);
  }

  /** Waits until a condition holds; fails after a generous time. */
  public static void await(BooleanSupplier condition) throws InterruptedException {
    await(condition, () -> "waited for two minutes");
  }

  /** Waits until a condition holds; fails after a generous time, and says what was seen then. */
  public static void await(BooleanSupplier condition, Supplier<String> seen)
      throws InterruptedException {
    long deadline = System.nanoTime() + Duration.ofMinutes(2).toNanos();
    while (!condition.getAsBoolean()) {
      assertThat(System.nanoTime()).as(seen).isLessThan(deadline);
      Thread.sleep(10);
    }
  }

  @Override
  public void close() {
    editions.discard();
  }
}
