package org.mnemex.service.install;

import jakarta.annotation.PreDestroy;
import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.TimeUnit;
import org.mnemex.service.store.DepartureMapper;
import org.mnemex.sync.edition.Departures;
import org.mnemex.sync.source.Source;
import org.mnemex.sync.source.SourceUnavailableException;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.stereotype.Component;

/** Departures, recorded until the source knows of them. */
@Component
public class StoredDepartures implements Departures {
  private static final Logger LOG = LoggerFactory.getLogger(StoredDepartures.class);
  private static final long RETRY_SECONDS = 30;

  /** A source that does not answer must not hold up the others. */
  private static final int THREADS = 3;

  private final DepartureMapper mapper;
  private final ScheduledExecutorService threads =
      Executors.newScheduledThreadPool(
          THREADS, Thread.ofPlatform().name("departures-", 1).daemon().factory());

  public StoredDepartures(DepartureMapper mapper) {
    this.mapper = mapper;
  }

  @Override
  public void leave(Source source, String reader) {
    try {
      mapper.add(source.name(), reader);
    } catch (RuntimeException e) {
      // A full disk: this is lost only if the service ends before the source is told.
      LOG.warn("source '{}': a reader that has ended is not recorded yet", source.name(), e);
    }
    if (!threads.isShutdown()) {
      threads.execute(() -> tell(source, reader));
    }
  }

  /** Resumes telling a source about readers that ended before this start. */
  void resume(Source source) {
    mapper.of(source.name()).forEach(reader -> threads.execute(() -> tell(source, reader)));
  }

  /** Forgets a removed source. */
  void forget(String source) {
    mapper.removeAll(source);
  }

  private void tell(Source source, String reader) {
    try (Source.Capture capture = source.capture(reader)) {
      capture.leave();
      mapper.remove(source.name(), reader);
    } catch (SourceUnavailableException | RuntimeException e) {
      LOG.warn(
          "source '{}' could not be told yet that reader '{}' has ended: {}",
          source.name(),
          reader,
          e.getMessage());
      if (!threads.isShutdown()) {
        var _ = threads.schedule(() -> tell(source, reader), RETRY_SECONDS, TimeUnit.SECONDS);
      }
    }
  }

  @PreDestroy
  void stop() {
    threads.shutdownNow();
  }
}
