package org.mnemex.service;

import java.net.URI;
import java.nio.file.Path;
import java.time.Duration;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.source.Shard;
import org.springframework.boot.context.properties.ConfigurationProperties;
import org.springframework.boot.context.properties.bind.DefaultValue;

/**
 * Settings of the service, under {@code mnemex}. Paths are texts where Spring would look for them
 * in the web application first.
 *
 * @param data folder for our records and the indexes
 * @param recordQueries whether it is counted what people search for and find
 * @param allow what definitions may refer to
 * @param keys whether callers need keys; a service without keys only listens to this machine
 * @param firstKey the first key, for a service that has none; otherwise one is made and printed
 * @param firstKeyFile a file with the first key
 * @param tokens scoped tokens
 * @param behindProxy networks of proxies whose forwarded headers are trusted, in CIDR notation; a
 *     service behind a proxy may listen without TLS
 * @param activityRetention how long the activity log keeps acts
 * @param insightRetention how long it is known what people searched for; whole days
 * @param bodyLimit the longest time from a request's header to the end of its body, except for
 *     pushed records
 * @param role what this process does
 * @param store where editions are published for other machines, or followed; null for nowhere
 * @param shard of a builder that shares its indexes with others: the records that it builds; null
 *     for all
 * @param node of a search node: who it is, and where the builder is
 */
@ConfigurationProperties("mnemex")
public record MnemexSettings(
    Path data,
    @DefaultValue("true") boolean recordQueries,
    @DefaultValue Allow allow,
    @DefaultValue("false") boolean keys,
    @Nullable String firstKey,
    @Nullable String firstKeyFile,
    @DefaultValue Tokens tokens,
    @DefaultValue List<String> behindProxy,
    @DefaultValue("90d") Duration activityRetention,
    @DefaultValue("90d") Duration insightRetention,
    @DefaultValue("60s") Duration bodyLimit,
    @DefaultValue("all") Role role,
    @Nullable StoreSettings store,
    @Nullable Shard shard,
    @DefaultValue Node node) {

  /** What a process does. */
  public enum Role {
    /** Everything: builds indexes, publishes them if there is a store, and answers searches. */
    ALL,
    /** Answers searches with copies of what is built elsewhere. */
    SEARCH
  }

  /**
   * A search node.
   *
   * @param name what it is called; null for the name of the machine and the port
   * @param builder address of the builder, to which it reports and which tells it what is new; null
   *     if it only looks into the store
   * @param keyFile a file with a key for the builder and for other nodes, if they want one
   * @param placement a file that says which nodes have which shards; null if this one has all
   * @param sslBundle the bundle, under {@code spring.ssl.bundle}, that says whom to trust when the
   *     builder and other nodes are called with https; null for what Java does
   */
  public record Node(
      @Nullable String name,
      @Nullable URI builder,
      @Nullable Path keyFile,
      @Nullable Path placement,
      @Nullable String sslBundle) {}

  /** The records that are built here. */
  public Shard ownShard() {
    return shard == null ? Shard.WHOLE : shard;
  }

  /**
   * Whether definitions come from the builder of shard 0. The definition of a source says where a
   * password is sent, so this needs a store in which everything is signed.
   */
  public boolean takesDefinitions() {
    return ownShard().number() > 0 && store != null && store.signingKeyFile() != null;
  }

  /** Hides the first key. */
  @Override
  public String toString() {
    return "MnemexSettings[data=%s, keys=%s, tokens=%s, behindProxy=%s]"
        .formatted(data, keys, tokens, behindProxy);
  }

  /**
   * What definitions may refer to.
   *
   * @param variables environment variables; a {@code *} at the end allows all that start so
   * @param folders folders of databases and of files with passwords
   */
  public record Allow(
      @DefaultValue("MNEMEX_*") List<String> variables, @DefaultValue(".") List<String> folders) {}

  /**
   * Scoped tokens.
   *
   * @param secret shared secret of tokens signed with HS256, at least 32 bytes; better from a file
   *     or an environment variable
   * @param secretFile a file with the shared secret
   * @param keySet file or URL of a JSON Web Key Set, for tokens signed with RS256 or ES256
   * @param longest the longest time that a token may be valid for
   */
  public record Tokens(
      @Nullable String secret,
      @Nullable String secretFile,
      @Nullable String keySet,
      @DefaultValue("24h") Duration longest) {

    /** Hides the secret. */
    @Override
    public String toString() {
      return "Tokens[keySet=%s, longest=%s]".formatted(keySet, longest);
    }
  }
}
