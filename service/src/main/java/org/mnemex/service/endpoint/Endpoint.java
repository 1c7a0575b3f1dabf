package org.mnemex.service.endpoint;

import java.util.List;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.schema.Schema;
import org.mnemex.service.definition.EndpointDefinition;
import org.mnemex.sync.definition.IndexDefinition;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * An endpoint's versions, newest first. While a new edition is being filled, the newest version may
 * name fields that the live edition lacks; then the newest version that fits is used.
 */
public final class Endpoint {
  private static final Logger LOG = LoggerFactory.getLogger(Endpoint.class);

  private final List<EndpointDefinition> versions;
  private final int version;

  /** One for each edition of an index. */
  private static final int MAX_KEPT = 3;

  /** The latest fits, by definition: a definition returns a new schema at each call. */
  private volatile List<Kept> kept = List.of();

  private record Kept(IndexDefinition index, @Nullable Fitted fitted) {}

  /**
   * @param versions newest first
   * @param version number of the newest
   */
  public Endpoint(List<EndpointDefinition> versions, int version) {
    this.versions = List.copyOf(versions);
    this.version = version;
  }

  public EndpointDefinition newest() {
    return versions.getFirst();
  }

  /** Number of the newest version. */
  public int version() {
    return version;
  }

  /** The endpoint fitted to an edition of this definition, or null if no version fits. */
  @SuppressWarnings("ReferenceEquality") // Comparing definitions would cost more than fitting.
  public @Nullable Fitted fit(IndexDefinition index) {
    List<Kept> known = kept;
    for (Kept one : known) {
      if (one.index == index) {
        return one.fitted;
      }
    }
    Kept fitted = new Kept(index, newest(index.schema()));
    kept = Stream.concat(Stream.of(fitted), known.stream()).limit(MAX_KEPT).toList();
    return fitted.fitted;
  }

  private @Nullable Fitted newest(Schema schema) {
    for (EndpointDefinition candidate : versions) {
      try {
        return EndpointFit.of(candidate, schema);
      } catch (UnfitEndpointException e) {
        LOG.debug("a version of endpoint '{}' waits for another edition", candidate.name(), e);
      }
    }
    return null;
  }
}
