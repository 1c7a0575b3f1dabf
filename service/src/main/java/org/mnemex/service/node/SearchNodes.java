package org.mnemex.service.node;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;
import org.mnemex.service.insight.CountsToPass;
import org.mnemex.service.insight.RecordedSearches;
import org.mnemex.service.install.Installation;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;
import org.mnemex.service.publish.News;
import org.mnemex.service.publish.Publications;
import org.mnemex.service.publish.StoreView;
import org.mnemex.service.publish.StoreView.StoredEdition;
import org.mnemex.service.store.InsightMapper.WordsRow;
import org.springframework.context.event.ContextClosedEvent;
import org.springframework.context.event.EventListener;
import org.springframework.stereotype.Component;

/** The search nodes of a builder: how they are, and what is new for them. */
@Component
public class SearchNodes {
  /** How long news are waited for. */
  static final Duration PATIENCE = Duration.ofSeconds(5);

  /** Longer than a node waits for news and for what it fetches then. */
  private static final Duration AWAY = Duration.ofSeconds(30);

  /** A node that has gone without a word may come back; after this it is another one. */
  private static final Duration REMEMBERED = Duration.ofHours(1);

  private static final int MAX_NODES = 1_000;
  private static final int MAX_EDITIONS = 1_000;
  private static final int MAX_TEXT = 1_000;
  private static final int MAX_WORDS = 20_000;
  private static final Pattern NAME = Pattern.compile("[A-Za-z0-9][A-Za-z0-9._-]{0,99}");
  private static final Pattern RUN = Pattern.compile("[A-Za-z0-9-]{1,64}");

  private final Publications publications;
  private final News news;
  private final RecordedSearches recorded;
  private final Installation installation;
  private final Clock clock;
  private final Map<String, Known> nodes = new HashMap<>();
  private volatile boolean isStopping;

  SearchNodes(
      Publications publications,
      News news,
      RecordedSearches recorded,
      Installation installation,
      Clock clock) {
    this.publications = publications;
    this.news = news;
    this.recorded = recorded;
    this.installation = installation;
    this.clock = clock;
  }

  /** What is known of a node. */
  private record Known(Instant since, Instant seen, StoreView told, Map<Place, Taken> taken) {}

  /** Which edition of which index, or of a shard of it. */
  private record Place(String index, @Nullable Integer shard, int edition) {}

  /**
   * When a node had a state of an edition.
   *
   * @param written when it was published
   * @param lag how long after that it was told
   */
  private record Taken(String written, Duration lag) {}

  /**
   * Takes a report, and waits for news.
   *
   * @throws ProblemException 400 if the report is none; 503 if nothing is published now, or there
   *     are too many nodes
   */
  NodeNews report(String name, NodeReport report) throws InterruptedException {
    if (!NAME.matcher(name).matches()) {
      throw new ProblemException(
          ProblemType.BAD_VALUE,
          "a search node is named by 1 to 100 letters, digits, '.', '_' and '-'");
    }
    if (report.store().editions().size() > MAX_EDITIONS) {
      throw new ProblemException(
          ProblemType.BAD_BODY,
          "a search node follows at most %,d editions".formatted(MAX_EDITIONS));
    }
    CountsToPass.Batch counts = report.counts();
    if (counts != null) {
      if (!RUN.matcher(counts.run()).matches() || counts.number() < 1) {
        throw new ProblemException(ProblemType.BAD_BODY, "'counts' needs a run and a number");
      }
      Set<String> endpoints = installation.running().endpoints().keySet();
      recorded.passed(counts, endpoints::contains);
    }
    note(name, report.store());
    requirePublishing();
    News.Written written = news.after(report.known(), PATIENCE);
    requirePublishing();
    boolean wantsWords = Boolean.TRUE.equals(report.words());
    return new NodeNews(written.upTo(), written.objects(), wantsWords ? words() : null);
  }

  /** What is searched for at each endpoint, as much as fits into an answer. */
  private Map<String, List<WordsRow>> words() {
    Map<String, List<WordsRow>> words = new HashMap<>();
    int rows = 0;
    for (String endpoint : installation.running().endpoints().keySet()) {
      List<WordsRow> most = recorded.askedMost(endpoint);
      rows += most.size();
      if (rows > MAX_WORDS) {
        break;
      }
      words.put(endpoint, most);
    }
    return words;
  }

  private void requirePublishing() {
    if (isStopping) {
      throw new ProblemException(ProblemType.STOPPING, "the service is stopping");
    }
    String problem = publications.isOn() ? publications.problem() : "the service has no store";
    if (problem != null) {
      throw new ProblemException(ProblemType.NOT_PUBLISHING, problem);
    }
  }

  private void note(String name, StoreView told) {
    Instant now = clock.instant();
    Map<Place, StoredEdition> published = new HashMap<>();
    publications.view().editions().forEach(edition -> published.put(place(edition), edition));
    synchronized (nodes) {
      nodes.values().removeIf(node -> node.seen.plus(REMEMBERED).isBefore(now));
      Known before = nodes.get(name);
      if (before == null && nodes.size() == MAX_NODES) {
        throw new ProblemException(
            ProblemType.TOO_BUSY, "more than %,d search nodes report".formatted(MAX_NODES));
      }
      Map<Place, Taken> taken = new HashMap<>();
      for (StoredEdition edition : told.editions()) {
        Place place = place(edition);
        Taken last = before == null ? null : before.taken.get(place);
        StoredEdition latest = published.get(place);
        if (last != null && last.written.equals(edition.written())) {
          taken.put(place, last);
        } else if (latest != null && latest.written().equals(edition.written())) {
          Instant written = Instant.parse(latest.written());
          taken.put(place, new Taken(latest.written(), Duration.between(written, now)));
        }
      }
      nodes.put(name, new Known(before == null ? now : before.since, now, told, taken));
    }
  }

  private static Place place(StoredEdition edition) {
    return new Place(edition.index(), edition.shard(), edition.edition());
  }

  /** Forgets a node that has stopped. */
  void leave(String name) {
    synchronized (nodes) {
      nodes.remove(name);
    }
  }

  /** All nodes, by name. */
  public List<NodeView> all() {
    Instant now = clock.instant();
    List<NodeView> all = new ArrayList<>();
    synchronized (nodes) {
      nodes.values().removeIf(node -> node.seen.plus(REMEMBERED).isBefore(now));
      nodes.forEach((name, node) -> all.add(view(name, node, now)));
    }
    all.sort(Comparator.comparing(NodeView::name));
    return all;
  }

  private static NodeView view(String name, Known node, Instant now) {
    return new NodeView(
        name,
        node.seen.plus(AWAY).isBefore(now) ? "away" : "here",
        node.since.toString(),
        node.seen.toString(),
        cut(node.told.problem()),
        node.told.traffic(),
        node.told.editions().stream()
            .map(
                edition -> {
                  Taken taken = node.taken.get(place(edition));
                  return new NodeView.NodeEdition(
                      edition.index(),
                      edition.shard(),
                      edition.edition(),
                      edition.trueAt(),
                      edition.bytes(),
                      taken == null ? null : taken.lag.toMillis());
                })
            .toList());
  }

  private static @Nullable String cut(@Nullable String text) {
    return text == null || text.length() <= MAX_TEXT ? text : text.substring(0, MAX_TEXT);
  }

  /** Lets nobody wait, so that nobody holds up a stop. */
  @EventListener
  void onStop(ContextClosedEvent event) {
    isStopping = true;
    news.end();
  }
}
