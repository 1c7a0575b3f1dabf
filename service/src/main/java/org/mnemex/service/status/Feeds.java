package org.mnemex.service.status;

import jakarta.annotation.PostConstruct;
import java.util.HashSet;
import java.util.Set;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;
import org.mnemex.service.store.FeedMapper;
import org.mnemex.sync.edition.Editions;
import org.mnemex.sync.source.Source;
import org.mnemex.sync.source.SourceUnavailableException;
import org.springframework.stereotype.Component;

/** What people tell feeds to do. A pause outlives the service. */
@Component
public class Feeds {
  private final Indexes indexes;
  private final FeedMapper feeds;

  public Feeds(Indexes indexes, FeedMapper feeds) {
    this.indexes = indexes;
    this.feeds = feeds;
  }

  @PostConstruct
  void start() {
    Set<String> paused = feeds.paused();
    indexes.definitions().stream()
        .filter(index -> paused.contains(index.keptAs()))
        .forEach(index -> indexes.editions(index.name()).pause(true));
  }

  /** Stops following the source until {@link #resume}. */
  public void pause(String index) {
    Editions editions = indexes.editions(index);
    feeds.pause(indexes.keptAs(index));
    editions.pause(true);
  }

  /** Goes on where it was paused. */
  public void resume(String index) {
    Editions editions = indexes.editions(index);
    feeds.resume(indexes.keptAs(index));
    editions.pause(false);
  }

  /** Forgets what indexes were told that are no longer there. */
  public void forgetGone() {
    Set<String> gone = new HashSet<>(feeds.paused());
    indexes.definitions().forEach(index -> gone.remove(index.keptAs()));
    gone.forEach(feeds::resume);
  }

  /** Lets documents go, or an edition be promoted, that were held back until somebody approves. */
  public void agree(String index) {
    indexes.editions(index).agree();
  }

  /**
   * The position of the source now, to be given to a search.
   *
   * @throws ProblemException 503 if the source cannot be asked
   */
  public String position(String index) {
    try (Source.Capture capture = indexes.source(index).capture("position")) {
      return capture.last().told();
    } catch (SourceUnavailableException e) {
      throw new ProblemException(ProblemType.SOURCE_UNAVAILABLE, String.valueOf(e.getMessage()));
    }
  }
}
