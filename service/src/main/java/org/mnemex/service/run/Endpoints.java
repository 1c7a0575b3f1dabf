package org.mnemex.service.run;

import java.util.List;
import org.mnemex.engine.schema.NearestName;
import org.mnemex.service.definition.EndpointDefinition;
import org.mnemex.service.run.Running.RunningIndex;
import org.mnemex.service.web.ProblemException;
import org.mnemex.sync.edition.Edition;
import org.mnemex.sync.feed.FeedStatus;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Component;

/** Finds what answers for an endpoint right now. */
@Component
public class Endpoints {
  private static final int RETRY_SECONDS = 2;

  private final Installation installation;

  public Endpoints(Installation installation) {
    this.installation = installation;
  }

  /**
   * An endpoint and the edition that answers for it.
   *
   * @param edition the live edition, to be used for the whole request
   */
  public record Answering(Endpoint.Fitted endpoint, Edition edition) {}

  /** Definitions of all endpoints, by name. */
  public List<EndpointDefinition> all() {
    return installation.running().endpoints().values().stream()
        .map(Endpoint::newest)
        .sorted(java.util.Comparator.comparing(EndpointDefinition::name))
        .toList();
  }

  /**
   * What answers for an endpoint.
   *
   * @throws ProblemException 404 if there is no such endpoint; 503 if its index has no live edition
   */
  public Answering answering(String name) {
    Running running = installation.running();
    Endpoint endpoint = running.endpoints().get(name);
    if (endpoint == null) {
      throw ProblemException.notFound(
          "unknown-endpoint",
          "there is no endpoint '" + name + "'",
          NearestName.to(name, running.endpoints().keySet()));
    }
    RunningIndex index = running.indexes().get(endpoint.newest().index());
    Edition live = index == null ? null : index.editions().live();
    if (index == null || live == null) {
      throw new ProblemException(
              HttpStatus.SERVICE_UNAVAILABLE,
              "index-being-built",
              "index '%s' is being built for the first time%s"
                  .formatted(endpoint.newest().index(), progress(index)),
              null)
          .retryAfter(RETRY_SECONDS);
    }
    Endpoint.Fitted fitted = endpoint.fit(live.definition().schema());
    if (fitted == null) {
      throw new ProblemException(
              HttpStatus.SERVICE_UNAVAILABLE,
              "endpoint-waits-for-edition",
              "endpoint '%s' needs fields of an edition that is still being filled%s"
                  .formatted(name, progress(index)),
              null)
          .retryAfter(RETRY_SECONDS);
    }
    return new Answering(fitted, live);
  }

  private static String progress(@org.jspecify.annotations.Nullable RunningIndex index) {
    Edition filling = index == null ? null : index.editions().filling();
    if (filling == null) {
      return "";
    }
    FeedStatus status = filling.feed().status();
    String problem = status.problem() == null ? "" : "; " + status.problem();
    return ": %d of %d records%s".formatted(status.recordsDone(), status.recordsTotal(), problem);
  }
}
