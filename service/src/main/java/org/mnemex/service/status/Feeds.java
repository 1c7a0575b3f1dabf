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

/** Commands to feeds. A pause survives a restart. */
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

  /** Resumes where it was paused. */
  public void resume(String index) {
    Editions editions = indexes.editions(index);
    feeds.resume(indexes.keptAs(index));
    editions.pause(false);
  }

  /** Forgets commands to indexes that no longer exist. */
  public void forgetGone() {
    Set<String> gone = new HashSet<>(feeds.paused());
    indexes.definitions().forEach(index -> gone.remove(index.keptAs()));
    gone.forEach(feeds::resume);
  }

  /** Approves held removals, or the promotion of a held edition. */
  public void agree(String index) {
    indexes.editions(index).agree();
  }

  /**
   * The current position of the source, for use in a search.
   *
   * @throws ProblemException 503 if the source is unreachable
   */
  public String position(String index) {
    try (Source.Capture capture = indexes.source(index).capture("position")) {
      return capture.last().told();
    } catch (SourceUnavailableException e) {
      throw new ProblemException(ProblemType.SOURCE_UNAVAILABLE, String.valueOf(e.getMessage()));
    }
  }
}
