package org.mnemex.service.backup;

import jakarta.annotation.PostConstruct;
import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.DigestInputStream;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.time.format.DateTimeFormatter;
import java.util.ArrayList;
import java.util.Collections;
import java.util.Comparator;
import java.util.HexFormat;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.TimeUnit;
import java.util.stream.Stream;
import org.mnemex.service.MnemexSettings;
import org.mnemex.service.install.Installation;
import org.mnemex.service.job.JobFailedException;
import org.mnemex.service.job.JobKind;
import org.mnemex.service.job.JobProgress;
import org.mnemex.service.job.JobWork;
import org.mnemex.service.job.Jobs;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;
import org.springframework.util.FileSystemUtils;

/**
 * Freezes backups and keeps them until they have been fetched. They take no room at first; the
 * files that the service would have removed since stay until the backup is discarded.
 */
@Component
public class Backups {
  private static final Logger LOG = LoggerFactory.getLogger(Backups.class);

  /** A caller that fetches a backup comes again sooner. */
  private static final Duration KEPT = Duration.ofHours(1);

  /** Nobody who fetches a backup pauses for so long. */
  private static final Duration BEING_FETCHED = Duration.ofMinutes(5);

  private static final int MOST = 3;
  private static final int BUFFER_BYTES = 1 << 20;

  /** Sorts by time, and is a file name everywhere. */
  private static final DateTimeFormatter ID =
      DateTimeFormatter.ofPattern("uuuu-MM-dd'T'HH-mm-ss.SSS'Z'").withZone(ZoneOffset.UTC);

  private final Installation installation;
  private final Jobs jobs;
  private final Clock clock;
  private final Path data;
  private final Path frozen;
  private final Map<String, Kept> kept = new ConcurrentHashMap<>();

  /** A backup that can be fetched. */
  private record Kept(
      BackupContent content, Map<String, BackupContent.File> byPath, Instant until) {
    Kept until(Instant other) {
      return new Kept(content, byPath, other);
    }
  }

  /**
   * A backup in a list.
   *
   * @param id its name
   * @param taken the moment, ISO 8601, UTC
   * @param files how many files it has
   * @param bytes how many bytes they have
   * @param until when it is discarded, unless somebody fetches it; ISO 8601, UTC
   */
  public record BackupView(String id, String taken, int files, long bytes, String until) {}

  /** The result of the job. */
  record Made(String backup, int files, long bytes) {}

  Backups(Installation installation, Jobs jobs, Clock clock, MnemexSettings settings) {
    this.installation = installation;
    this.jobs = jobs;
    this.clock = clock;
    this.data = settings.data();
    this.frozen = data.resolve("frozen");
  }

  /** Removes what the last process has left. */
  @PostConstruct
  void start() throws IOException {
    FileSystemUtils.deleteRecursively(frozen);
  }

  /**
   * Begins to freeze a backup.
   *
   * @return the number of the job
   * @throws ProblemException 503 if too many backups are being fetched already
   */
  public long begin() {
    makeRoom();
    Instant now = clock.instant();
    String id = ID.format(now);
    return jobs.begin(JobKind.BACKUP, "everything", id, progress -> make(id, now, progress));
  }

  /** Discards what is no longer fetched, if as many are kept as may be. */
  private void makeRoom() {
    if (kept.size() < MOST) {
      return;
    }
    Kept oldest = Collections.min(kept.values(), Comparator.comparing(Kept::until));
    if (oldest.until.isAfter(clock.instant().plus(KEPT).minus(BEING_FETCHED))) {
      throw new ProblemException(
              ProblemType.TOO_BUSY, "%d backups are being fetched already".formatted(MOST))
          .retryAfter((int) BEING_FETCHED.toSeconds());
    }
    discard(oldest.content.id());
  }

  private JobWork.Outcome make(String id, Instant now, JobProgress progress)
      throws JobFailedException {
    // Others may have been made while this one waited.
    makeRoom();
    Path folder = frozen.resolve(id);
    boolean isMade = false;
    try {
      String version = new FrozenState(data, folder).freeze(installation);
      progress.say("the state of %s is frozen".formatted(now));
      BackupContent content =
          new BackupContent(
              BackupContent.FORMAT,
              id,
              now.toString(),
              installation.id(),
              version,
              files(folder, progress));
      Map<String, BackupContent.File> byPath = new ConcurrentHashMap<>();
      content.files().forEach(file -> byPath.put(file.path(), file));
      kept.put(id, new Kept(content, byPath, clock.instant().plus(KEPT)));
      isMade = true;
      return new JobWork.Outcome(
          "%,d files, %,d bytes".formatted(byPath.size(), content.bytes()),
          new Made(id, byPath.size(), content.bytes()));
    } catch (IOException e) {
      throw new JobFailedException("the backup cannot be made: " + e.getMessage(), e);
    } finally {
      if (!isMade) {
        remove(folder);
      }
    }
  }

  private static List<BackupContent.File> files(Path folder, JobProgress progress)
      throws IOException {
    List<Path> paths;
    try (Stream<Path> all = Files.walk(folder)) {
      paths = all.filter(Files::isRegularFile).sorted().toList();
    }
    long total = 0;
    for (Path path : paths) {
      total += Files.size(path);
    }
    progress.total(total);
    List<BackupContent.File> files = new ArrayList<>();
    long done = 0;
    for (Path path : paths) {
      String sum = sha256(path);
      long bytes = Files.size(path);
      StringBuilder name = new StringBuilder();
      folder.relativize(path).forEach(part -> name.append(name.isEmpty() ? "" : "/").append(part));
      files.add(new BackupContent.File(name.toString(), bytes, sum));
      done += bytes;
      progress.done(done);
    }
    return files;
  }

  private static String sha256(Path file) throws IOException {
    try {
      MessageDigest digest = MessageDigest.getInstance("SHA-256");
      try (InputStream in = new DigestInputStream(Files.newInputStream(file), digest)) {
        byte[] buffer = new byte[BUFFER_BYTES];
        while (in.read(buffer) >= 0) {
          // The digest takes what is read.
        }
      }
      return HexFormat.of().formatHex(digest.digest());
    } catch (NoSuchAlgorithmException e) {
      throw new IllegalStateException("every Java has SHA-256", e);
    }
  }

  /** The backups that can be fetched, oldest first. */
  public List<BackupView> list() {
    return kept.values().stream()
        .map(
            one ->
                new BackupView(
                    one.content.id(),
                    one.content.taken(),
                    one.content.files().size(),
                    one.content.bytes(),
                    one.until.toString()))
        .sorted(Comparator.comparing(BackupView::id))
        .toList();
  }

  /**
   * What a backup consists of.
   *
   * @throws ProblemException 404 if there is none of this name any more
   */
  public BackupContent content(String id) {
    return find(id).content;
  }

  /**
   * A file of a backup.
   *
   * @throws ProblemException 404 if there is none
   */
  public Path file(String id, String path) {
    BackupContent.File file = find(id).byPath.get(path);
    if (file == null) {
      throw new ProblemException(
          ProblemType.UNKNOWN_BACKUP, "backup '%s' has no file '%s'".formatted(id, path));
    }
    return frozen.resolve(id).resolve(file.path());
  }

  private Kept find(String id) {
    Kept found = kept.computeIfPresent(id, (name, one) -> one.until(clock.instant().plus(KEPT)));
    if (found == null) {
      throw new ProblemException(
          ProblemType.UNKNOWN_BACKUP, "there is no backup '%s' any more".formatted(id));
    }
    return found;
  }

  /**
   * Removes a backup that has been fetched.
   *
   * @throws ProblemException 404 if there is none of this name any more
   */
  public void discard(String id) {
    find(id);
    kept.remove(id);
    remove(frozen.resolve(id));
  }

  @Scheduled(fixedDelay = 1, timeUnit = TimeUnit.MINUTES)
  void discardForgotten() {
    Instant now = clock.instant();
    for (Kept one : List.copyOf(kept.values())) {
      if (one.until.isBefore(now) && kept.remove(one.content.id(), one)) {
        remove(frozen.resolve(one.content.id()));
        LOG.info("backup {} was not fetched for an hour and is discarded", one.content.id());
      }
    }
  }

  private static void remove(Path folder) {
    try {
      FileSystemUtils.deleteRecursively(folder);
    } catch (IOException | UncheckedIOException e) {
      LOG.warn("{} could not be removed; the next start does it", folder, e);
    }
  }
}
