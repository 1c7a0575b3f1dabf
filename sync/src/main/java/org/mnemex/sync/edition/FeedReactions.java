package org.mnemex.sync.edition;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.time.Duration;
import java.util.Objects;
import org.mnemex.sync.edition.EditionStore.FillPlan;
import org.mnemex.sync.feed.Feed;
import org.mnemex.sync.source.Source;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Reacts to reports from the feeds of an index. Acts on the thread of transitions, because it may
 * end the feed's thread.
 */
final class FeedReactions implements Feed.Listener {
  private static final Logger LOG = LoggerFactory.getLogger(FeedReactions.class);

  private final Editions index;
  private final int number;
  private final Source source;
  private final TransitionThread transitions;
  private final Losses losses;

  /**
   * @param number of the edition
   * @param losses of the whole index
   */
  FeedReactions(
      Editions index, int number, Source source, TransitionThread transitions, Losses losses) {
    this.index = index;
    this.number = number;
    this.source = source;
    this.transitions = transitions;
    this.losses = losses;
  }

  @Override
  public void opened() {
    // What no search reads would otherwise be found damaged when it is needed.
    verify();
  }

  @Override
  public void refreshed() {
    Edition edition = index.edition(number);
    if (edition != null) {
      edition.mergeIfNeeded();
    }
  }

  @Override
  public void caughtUp() {
    transitions.later(Duration.ZERO, () -> index.complete(number));
  }

  @Override
  public void positionLost(String why) {
    transitions.later(Duration.ZERO, () -> makeUpForLoss(why));
  }

  @Override
  public void failed(Throwable cause) {
    transitions.later(Duration.ZERO, this::verify);
  }

  private void makeUpForLoss(String why) {
    synchronized (index) {
      Edition lost = index.edition(number);
      if (lost == null || lost == index.former()) {
        // A previous edition that is no longer fed is useless: remove it.
        return;
      }
      Duration pause = losses.add();
      if (!pause.isZero()) {
        String problem =
            "positions were lost %d times within an hour, the last time because %s; the next edition starts in %d minutes"
                .formatted(losses.count(), why, pause.toMinutes());
        index.report(problem);
        LOG.error("index '{}': {}", index.name(), problem);
        transitions.later(pause, () -> fillAnother(why));
        return;
      }
      fillAnother(why);
    }
  }

  private void fillAnother(String why) {
    synchronized (index) {
      index.report(null);
      Edition lost = index.edition(number);
      if (lost != null) {
        LOG.warn("index '{}': {}; filling a new edition beside the live one", index.name(), why);
        fillLike(Objects.requireNonNullElse(index.next(), lost), source);
      }
    }
  }

  /** Compares the edition's files with their checksums, on a thread of its own. */
  private void verify() {
    Edition edition = index.edition(number);
    if (edition == null) {
      return;
    }
    Thread.ofPlatform()
        .name("verify-" + index.name() + "-" + number)
        .daemon()
        .start(
            () -> {
              String damage = edition.lookForDamage();
              if (damage != null) {
                transitions.later(Duration.ZERO, () -> replaceDamaged(edition, damage));
              }
            });
  }

  private void replaceDamaged(Edition edition, String damage) {
    synchronized (index) {
      if (index.edition(number) != edition) {
        return;
      }
      LOG.error(
          "index '{}': edition {} is damaged and no longer used: {}", index.name(), number, damage);
      edition.giveUp(damage);
      Edition next = index.next();
      if (edition == index.former()) {
        // It is removed after its grace period as usual; a rollback to it is refused.
        return;
      }
      if (next == null || next == edition || !canReplace(next)) {
        Edition like = Objects.requireNonNullElse(next, edition);
        fillLike(like, like.source());
      } else if (index.held() != null) {
        // A person had to choose between it and the live edition.
        transitions.later(Duration.ZERO, () -> index.complete(next.number()));
      }
    }
  }

  private static boolean canReplace(Edition next) {
    return !next.entry().plan().fromStored() || next.feed().isComplete();
  }

  /** Fills an edition of the same definition from the database. */
  private void fillLike(Edition like, Source from) {
    try {
      index.build(
          like.definition(), like.version(), from, new FillPlan(false, like.entry().plan().hold()));
    } catch (IOException e) {
      throw new UncheckedIOException("no new edition could be begun: " + e.getMessage(), e);
    }
  }
}
