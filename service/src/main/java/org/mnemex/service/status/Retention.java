package org.mnemex.service.status;

import java.util.Locale;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.TimeUnit;
import org.jspecify.annotations.Nullable;
import org.mnemex.service.install.Installation;
import org.mnemex.service.install.Running;
import org.mnemex.service.install.RunningDefinition.RunningIndex;
import org.mnemex.service.install.RunningDefinition.RunningSource;
import org.mnemex.service.install.StoredDepartures;
import org.mnemex.sync.edition.Edition;
import org.mnemex.sync.feed.FeedStatus;
import org.mnemex.sync.source.Source;
import org.mnemex.sync.source.SourceReader;
import org.mnemex.sync.source.SourceUnavailableException;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;

/**
 * Watches how much databases retain for our feeds. Beyond the limit in the source's definition, the
 * position of a stopped feed is given up: its edition keeps answering, and a new edition is filled
 * when the feed resumes.
 */
@Component
public class Retention {
  private static final Logger LOG = LoggerFactory.getLogger(Retention.class);

  private final Installation installation;
  private final StoredDepartures departures;
  private final Map<String, SourceReader> retained = new ConcurrentHashMap<>();

  public Retention(Installation installation, StoredDepartures departures) {
    this.installation = installation;
    this.departures = departures;
  }

  @Scheduled(fixedDelay = 30, initialDelay = 5, timeUnit = TimeUnit.SECONDS)
  void look() {
    Running running = installation.running();
    for (RunningSource source : running.sources().values()) {
      try {
        Map<String, SourceReader> readers =
            source.source().retained(installation.readers().of(source.source().name()).keySet());
        for (RunningIndex index : running.indexes().values()) {
          if (index.index().source().equals(source.source().name())) {
            for (Edition edition : index.editions().all()) {
              look(source.source(), index, edition, readers);
            }
          }
        }
      } catch (SourceUnavailableException e) {
        LOG.debug("the retained changes of source '{}' are unknown", source.source().name(), e);
      }
    }
    retained.keySet().retainAll(installation.readers().all().keySet());
  }

  private void look(
      Source source, RunningIndex index, Edition edition, Map<String, SourceReader> readers) {
    String reader = index.editions().reader(edition.number());
    SourceReader found = readers.get(reader);
    if (found == null) {
      retained.remove(reader);
      return;
    }
    retained.put(reader, found);
    FeedStatus.Phase phase = edition.feed().phase();
    boolean follows = phase == FeedStatus.Phase.LIVE || phase == FeedStatus.Phase.BACKFILL;
    if (source.mostRetained() > 0
        && found.retained() > source.mostRetained()
        && !follows
        && !found.active()) {
      String why =
          "the source kept %,d %s for this feed, more than 'most_retained' allows, so they were given up; when the feed resumes, a new edition is filled"
              .formatted(found.retained(), found.unit().name().toLowerCase(Locale.ROOT));
      LOG.warn("index '{}', edition {}: {}", index.index().name(), edition.number(), why);
      departures.leave(source, reader);
      edition.feed().say(why);
    }
  }

  /** How much is retained for an edition, or null if unknown. */
  @Nullable SourceReader of(RunningIndex index, Edition edition) {
    return retained.get(index.editions().reader(edition.number()));
  }
}
