package org.mnemex.service.access;

import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.security.SecureRandom;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.Base64;
import java.util.Comparator;
import java.util.HexFormat;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.text.NearestName;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;
import org.mnemex.service.store.AccessKeyMapper;
import org.mnemex.service.store.AccessKeyMapper.AccessKeyRow;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.dao.DataAccessException;
import org.springframework.stereotype.Component;
import org.springframework.transaction.TransactionException;
import tools.jackson.databind.json.JsonMapper;

/**
 * The keys of this service.
 *
 * <p>A key's text is {@code mnemex_ID_SECRET}: an identifier that lists and logs may show, and 256
 * random bits in base64url. The stored hash is the SHA-256 (FIPS 180-4) of the secret, in
 * hexadecimal; a secret of full entropy needs no slow hash.
 */
@Component
public class Keys {
  private static final Logger LOG = LoggerFactory.getLogger(Keys.class);
  private static final Pattern TEXT = Pattern.compile("mnemex_([a-z0-9]{8})_([A-Za-z0-9_-]{43})");
  private static final String LETTERS = "abcdefghijkmnpqrstuvwxyz23456789";
  private static final int ID_LENGTH = 8;
  private static final int SECRET_BYTES = 32;
  private static final int MAX_NAME = 100;

  private final AccessKeyMapper mapper;
  private final Clock clock;
  private final JsonMapper json;
  private final SecureRandom random = new SecureRandom();
  private final Map<String, Stored> keys = new ConcurrentHashMap<>();

  /** A key with the hash of its secret. */
  private record Stored(AccessKey key, String hash) {}

  Keys(AccessKeyMapper mapper, Clock clock, JsonMapper json) {
    this.mapper = mapper;
    this.clock = clock;
    this.json = json;
    mapper.all().forEach(row -> keys.put(row.id(), stored(row)));
  }

  /** Knows the keys of another service, and no others. */
  public void follow(List<AccessKeyRow> rows) {
    rows.forEach(row -> keys.put(row.id(), stored(row)));
    keys.keySet().retainAll(rows.stream().map(AccessKeyRow::id).toList());
  }

  private Stored stored(AccessKeyRow row) {
    return new Stored(
        new AccessKey(
            row.id(),
            row.name(),
            Right.valueOf(row.role()),
            json.readValue(row.scope(), Scope.class),
            Instant.parse(row.created()),
            instant(row.expires()),
            instant(row.lastUsed()),
            instant(row.revoked())),
        row.hash());
  }

  private static @Nullable Instant instant(@Nullable String text) {
    return text == null ? null : Instant.parse(text);
  }

  /**
   * A new key.
   *
   * @param secret the key's text, which is shown once
   */
  public record NewKey(AccessKey key, String secret) {}

  /** All keys, oldest first. */
  public List<AccessKey> all() {
    return keys.values().stream()
        .map(Stored::key)
        .sorted(Comparator.comparing(AccessKey::created).thenComparing(AccessKey::id))
        .toList();
  }

  /** Whether there are no keys at all. */
  public boolean isEmpty() {
    return keys.isEmpty();
  }

  /**
   * The key of a text, if it works now.
   *
   * @return null if there is no such key, its secret differs, or it has expired or was revoked
   */
  public @Nullable AccessKey find(String text) {
    Matcher parts = TEXT.matcher(text);
    Stored stored = parts.matches() ? keys.get(parts.group(1)) : null;
    String hash = hash(parts.matches() ? parts.group(2) : "");
    // Always compares, so that the time does not tell whether the identifier exists.
    boolean equal =
        MessageDigest.isEqual(
            hash.getBytes(StandardCharsets.UTF_8),
            (stored == null ? "" : stored.hash()).getBytes(StandardCharsets.UTF_8));
    if (stored == null || !equal || !stored.key().worksAt(clock.instant())) {
      return null;
    }
    noteUse(stored);
    return stored.key();
  }

  /** Whether a key works now. */
  public boolean works(String id) {
    Stored stored = keys.get(id);
    return stored != null && stored.key().worksAt(clock.instant());
  }

  /** To the minute: a search must not wait for the disk each time. */
  private void noteUse(Stored stored) {
    Instant minute = clock.instant().truncatedTo(ChronoUnit.MINUTES);
    AccessKey key = stored.key();
    if (minute.equals(key.lastUsed())) {
      return;
    }
    AccessKey used =
        new AccessKey(
            key.id(),
            key.name(),
            key.right(),
            key.scope(),
            key.created(),
            key.expires(),
            minute,
            key.revoked());
    if (keys.replace(key.id(), stored, new Stored(used, stored.hash()))) {
      try {
        mapper.use(key.id(), minute.toString());
      } catch (DataAccessException | TransactionException e) {
        // A call must not fail because its time cannot be written.
        LOG.warn("the last use of key '{}' was not recorded: {}", key.id(), e.getMessage());
      }
    }
  }

  /**
   * Creates a key.
   *
   * @param expires when it stops working; null for never
   * @throws ProblemException if the name is empty or too long, or the time has passed
   */
  public NewKey create(String name, Right right, Scope scope, @Nullable Instant expires) {
    if (name.isBlank() || name.length() > MAX_NAME) {
      throw new ProblemException(
          ProblemType.BAD_ACCESS_KEY,
          "the name of a key has 1 to %d characters".formatted(MAX_NAME));
    }
    if (expires != null && !expires.isAfter(clock.instant())) {
      throw new ProblemException(
          ProblemType.BAD_ACCESS_KEY, "a key cannot expire in the past, at " + expires);
    }
    StringBuilder id = new StringBuilder();
    for (int i = 0; i < ID_LENGTH; i++) {
      id.append(LETTERS.charAt(random.nextInt(LETTERS.length())));
    }
    byte[] secret = new byte[SECRET_BYTES];
    random.nextBytes(secret);
    return add(
        id.toString(),
        Base64.getUrlEncoder().withoutPadding().encodeToString(secret),
        name,
        right,
        scope,
        expires);
  }

  /**
   * Adds a key that an operator has chosen.
   *
   * @param text the key's text
   * @throws IllegalArgumentException with a sentence, if it does not have the form of a key
   */
  public AccessKey add(String text, String name, Right right) {
    Matcher parts = TEXT.matcher(text);
    if (!parts.matches()) {
      throw new IllegalArgumentException(
          "the first key is 'mnemex_', 8 lower-case letters or digits, '_', and 43 characters of"
              + " base64url");
    }
    return add(parts.group(1), parts.group(2), name, right, Scope.ALL, null).key();
  }

  private NewKey add(
      String id, String secret, String name, Right right, Scope scope, @Nullable Instant expires) {
    AccessKey key =
        new AccessKey(id, name.strip(), right, scope, clock.instant(), expires, null, null);
    String hash = hash(secret);
    mapper.insert(
        new AccessKeyRow(
            id,
            key.name(),
            right.name(),
            hash,
            json.writeValueAsString(scope),
            key.created().toString(),
            expires == null ? null : expires.toString(),
            null,
            null));
    keys.put(id, new Stored(key, hash));
    return new NewKey(key, "mnemex_" + id + "_" + secret);
  }

  /**
   * Revokes a key at once.
   *
   * @throws ProblemException if there is no such key
   */
  public synchronized AccessKey revoke(String id) {
    Stored stored = known(id);
    Instant now = clock.instant();
    if (stored.key().revoked() == null) {
      mapper.revoke(id, now.toString());
    }
    return replaced(stored, stored.key().expires(), now);
  }

  /**
   * Creates a key with the same right and scope, and lets the old one work for a while.
   *
   * @param overlap how long both work
   * @throws ProblemException if there is no such key, or it no longer works
   */
  public synchronized NewKey rotate(String id, Duration overlap) {
    Stored stored = known(id);
    AccessKey old = stored.key();
    Instant now = clock.instant();
    if (!old.worksAt(now)) {
      throw new ProblemException(
          ProblemType.BAD_ACCESS_KEY,
          "key '%s' is %s; create a new one".formatted(id, old.stateAt(now)));
    }
    NewKey successor = create(old.name(), old.right(), old.scope(), old.expires());
    Instant end = now.plus(overlap);
    if (old.expires() == null || end.isBefore(old.expires())) {
      mapper.expire(id, end.toString());
      replaced(stored, end, null);
    }
    return successor;
  }

  private AccessKey replaced(Stored stored, @Nullable Instant expires, @Nullable Instant revoked) {
    AccessKey key = stored.key();
    AccessKey changed =
        new AccessKey(
            key.id(),
            key.name(),
            key.right(),
            key.scope(),
            key.created(),
            expires,
            key.lastUsed(),
            revoked);
    keys.put(key.id(), new Stored(changed, stored.hash()));
    return changed;
  }

  private Stored known(String id) {
    Stored stored = keys.get(id);
    if (stored == null) {
      throw new ProblemException(
              ProblemType.UNKNOWN_ACCESS_KEY,
              "there is no key '" + id + "'",
              NearestName.to(id, keys.keySet()))
          .inAddress();
    }
    return stored;
  }

  private static String hash(String secret) {
    try {
      return HexFormat.of()
          .formatHex(
              MessageDigest.getInstance("SHA-256").digest(secret.getBytes(StandardCharsets.UTF_8)));
    } catch (NoSuchAlgorithmException e) {
      throw new IllegalStateException("every Java has SHA-256", e);
    }
  }
}
