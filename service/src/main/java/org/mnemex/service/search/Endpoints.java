package org.mnemex.service.search;

import java.time.Duration;
import java.util.Comparator;
import java.util.List;
import java.util.Set;
import java.util.concurrent.TimeUnit;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.SearchView;
import org.mnemex.engine.error.QueryRefusedException;
import org.mnemex.engine.error.UnknownFieldException;
import org.mnemex.engine.limit.Helpers;
import org.mnemex.engine.query.FilterSyntaxException;
import org.mnemex.engine.query.FilterText;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.text.NearestName;
import org.mnemex.grammar.DefinitionException;
import org.mnemex.grammar.DefinitionPart;
import org.mnemex.grammar.ParsedFile;
import org.mnemex.service.definition.CurationDefinition;
import org.mnemex.service.definition.Definition;
import org.mnemex.service.definition.DefinitionReader;
import org.mnemex.service.definition.EndpointDefinition;
import org.mnemex.service.definition.PhrasesDefinition;
import org.mnemex.service.definition.References;
import org.mnemex.service.definition.Vocabulary;
import org.mnemex.service.endpoint.Endpoint;
import org.mnemex.service.endpoint.EndpointFit;
import org.mnemex.service.endpoint.Fitted;
import org.mnemex.service.endpoint.TrialName;
import org.mnemex.service.endpoint.UnfitEndpointException;
import org.mnemex.service.install.DefinitionFile;
import org.mnemex.service.install.Installation;
import org.mnemex.service.install.Running;
import org.mnemex.service.install.RunningDefinition.RunningEndpoint;
import org.mnemex.service.install.RunningDefinition.RunningIndex;
import org.mnemex.service.install.RunningDefinition.RunningPhrases;
import org.mnemex.service.install.RunningDefinition.RunningSource;
import org.mnemex.service.install.ToldPosition;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;
import org.mnemex.sync.edition.Edition;
import org.mnemex.sync.edition.SearchedEdition;
import org.mnemex.sync.feed.FeedStatus;
import org.mnemex.sync.source.Position;
import org.springframework.stereotype.Component;

/** Finds the edition that answers for an endpoint. */
@Component
public class Endpoints {
  private static final int RETRY_SECONDS = 2;

  /** The longest wait for a caller's own writes. */
  private static final Duration MAX_WAIT = Duration.ofSeconds(5);

  private static final long POLL_MILLIS = 2;
  private static final DefinitionReader SETTINGS = new DefinitionReader(References.NONE);

  private final Installation installation;
  private final EndpointTrials trials;
  private final Helpers helpers;

  public Endpoints(Installation installation, EndpointTrials trials, Helpers helpers) {
    this.installation = installation;
    this.trials = trials;
    this.helpers = helpers;
  }

  /**
   * An endpoint and the edition that answers for it.
   *
   * @param edition the live edition, to be used for the whole request
   * @param tried the schema that it is searched with; null: its own
   * @param curations the curations of the endpoint
   * @param helpers who take on parts of its searches
   */
  public record Answering(
      Fitted endpoint,
      SearchedEdition edition,
      @Nullable Schema tried,
      List<CurationDefinition> curations,
      Helpers helpers,
      @Nullable LeftOutShards leftOut) {
    /** The same with another form of the endpoint. */
    Answering as(Fitted other) {
      return new Answering(other, edition, tried, curations, helpers, leftOut);
    }

    /** The same that may do without shards that are nowhere, if the endpoint is defined so. */
    Answering reachable() {
      LeftOutShards noted = endpoint.definition().leavesOutShards() ? new LeftOutShards() : null;
      return new Answering(endpoint, edition, tried, curations, helpers, noted);
    }

    /** The same that needs all shards. */
    Answering whole() {
      return new Answering(endpoint, edition, tried, curations, helpers, null);
    }

    /** Numbers of shards that what was read is without; null if it is without none. */
    @Nullable List<Integer> missingShards() {
      return leftOut == null ? null : leftOut.numbers();
    }

    /** Reads the edition's current snapshot. */
    <T> T read(Function<SearchView, T> work) {
      if (leftOut == null) {
        return edition.search(tried, view -> work.apply(view.helpedBy(helpers)));
      }
      return edition.searchReachable(
          tried,
          view -> {
            T read = work.apply(view.helpedBy(helpers));
            leftOut.note(view.away());
            return read;
          });
    }

    /**
     * The same for a caller with filters of its own.
     *
     * @throws ProblemException 403 if a filter does not fit the endpoint's index
     */
    Answering within(List<String> filters) {
      Fitted narrowed = endpoint;
      for (String filter : filters) {
        try {
          narrowed = narrowed.within(FilterText.parse(filter, endpoint.schema()));
        } catch (FilterSyntaxException | UnknownFieldException | QueryRefusedException e) {
          throw new ProblemException(
              ProblemType.NOT_ALLOWED,
              "the filter of this key or token does not fit endpoint '%s'"
                  .formatted(endpoint.definition().name()));
        }
      }
      return as(narrowed);
    }

    /**
     * The same for a caller who states a language.
     *
     * @throws ProblemException if the endpoint has no fields for it
     */
    Answering speaking(String language) {
      Fitted other = endpoint.speaking(language);
      if (other == null) {
        Set<String> tags = endpoint.languages().keySet();
        throw new ProblemException(
            ProblemType.UNKNOWN_LANGUAGE,
            "endpoint '%s' has no fields for language '%s'; it has %s"
                .formatted(
                    endpoint.definition().name(),
                    language,
                    tags.isEmpty() ? "none for any" : "some for " + String.join(", ", tags)),
            NearestName.to(language, tags));
      }
      return as(other);
    }
  }

  /**
   * Checks that a filter can be used with an endpoint. Nothing is known of an endpoint that does
   * not exist yet or whose index is not live.
   *
   * @throws FilterSyntaxException if it is not valid
   * @throws UnknownFieldException if it names a field that the index lacks
   */
  public void checkFilter(String endpoint, String filter) {
    Answering answering;
    try {
      answering = answering(endpoint);
    } catch (ProblemException e) {
      return;
    }
    answering.endpoint().within(FilterText.parse(filter, answering.endpoint().schema()));
  }

  /** Definitions of all endpoints, by name. */
  public List<EndpointDefinition> all() {
    return installation.running().endpoints().values().stream()
        .map(running -> running.endpoint().newest())
        .sorted(Comparator.comparing(EndpointDefinition::name))
        .toList();
  }

  /**
   * The endpoint, or what is tried under that name, and its live edition.
   *
   * @throws ProblemException 404 if there is no such endpoint; 503 if its index has no live edition
   */
  public Answering answering(String name) {
    if (TrialName.is(name)) {
      EndpointTrials.Trial trial = trials.find(name);
      return trying(trial.endpoint(), trial.files());
    }
    // Look once: an index may be renamed between two looks.
    Running running = installation.running();
    Endpoint endpoint = known(running, name);
    String index = endpoint.newest().index();
    return answering(running, endpoint, liveOrRefuse(running, index));
  }

  private SearchedEdition liveOrRefuse(Running running, String name) {
    Installation.Failure failure = installation.failures().get(name);
    if (failure != null) {
      throw new ProblemException(
          ProblemType.INDEX_NOT_RUNNING,
          "index '%s' is not running: %s".formatted(name, failure.why()));
    }
    SearchedEdition live = running.live(name);
    if (live == null) {
      throw new ProblemException(
              ProblemType.INDEX_BEING_BUILT,
              "index '%s' is being built%s".formatted(name, progress(running, name)))
          .retryAfter(RETRY_SECONDS);
    }
    if (live.damage() != null) {
      throw new ProblemException(
              ProblemType.INDEX_DAMAGED,
              "a file of index '%s' is damaged, and is being replaced%s"
                  .formatted(name, progress(running, name)))
          .retryAfter(RETRY_SECONDS);
    }
    return live;
  }

  /**
   * An endpoint with a certain edition of its index.
   *
   * @throws ProblemException if there is no such edition, or it lacks something that the endpoint
   *     needs
   */
  public Answering answering(String name, int edition) {
    Running running = installation.running();
    Endpoint endpoint = known(running, name);
    RunningIndex index = running.index(endpoint.newest().index());
    Edition found =
        index.editions().all().stream()
            .filter(one -> one.number() == edition)
            .findFirst()
            .orElseThrow(
                () ->
                    new ProblemException(
                        ProblemType.UNKNOWN_EDITION,
                        "index '%s' has no edition %d; it has %s"
                            .formatted(
                                index.index().name(),
                                edition,
                                index.editions().all().stream().map(Edition::number).toList())));
    return answering(running, endpoint, found);
  }

  /** An endpoint with the next edition, or else the previous one. */
  public Answering other(String name) {
    Running running = installation.running();
    Endpoint endpoint = known(running, name);
    RunningIndex index = running.index(endpoint.newest().index());
    Edition next = index.editions().next();
    Edition other = next == null ? index.editions().former() : next;
    if (other == null) {
      throw new ProblemException(
          ProblemType.NO_OTHER_EDITION,
          "index '%s' has only its live edition; apply a changed definition with 'hold' to compare"
              .formatted(index.index().name()));
    }
    return answering(running, endpoint, other);
  }

  /**
   * An edition with an endpoint's settings that need not be applied.
   *
   * @param yaml definition of the endpoint
   * @throws DefinitionException if it is wrong, or does not fit the edition
   */
  public Answering trying(String yaml, SearchedEdition edition) {
    DefinitionPart part = ParsedFile.read("settings", yaml).orThrow().getFirst();
    Definition read = SETTINGS.read(part, Vocabulary.BUILT_IN);
    if (!(read.content() instanceof Definition.OfEndpoint of)
        || !of.endpoint().index().equals(edition.definition().name())) {
      throw new DefinitionException(
          List.of(
              read.problem(
                  List.of(),
                  "settings are the definition of an endpoint of index '%s'"
                      .formatted(edition.definition().name()),
                  null)));
    }
    try {
      return new Answering(
          EndpointFit.of(of.endpoint(), edition.definition().schema()),
          edition,
          null,
          installation.running().curationsOf(of.endpoint().name()),
          helpers,
          null);
    } catch (UnfitEndpointException e) {
      throw new DefinitionException(e.reasons().stream().map(read::problem).toList());
    }
  }

  /**
   * An endpoint and its live edition as they would be under definitions that need not be applied.
   *
   * @throws DefinitionException if the definitions are wrong
   * @throws ProblemException if there would be no such endpoint, or the edition had to be built
   *     anew
   */
  public Answering trying(String name, List<DefinitionFile> files) {
    Running after = installation.after(files);
    EndpointDefinition definition = known(after, name).newest();
    SearchedEdition live = liveOrRefuse(installation.running(), definition.index());
    Schema schema = after.index(definition.index()).index().schema();
    if (!schema.fingerprint().equals(live.definition().schema().fingerprint())) {
      throw new ProblemException(
          ProblemType.NO_OTHER_EDITION,
          "these definitions need a new edition of index '%s'; apply them with 'hold' and compare the two editions"
              .formatted(definition.index()));
    }
    return new Answering(
        EndpointFit.of(definition, schema), live, schema, after.curationsOf(name), helpers, null);
  }

  /** A definition of phrases, or null. */
  @Nullable PhrasesDefinition phrases(String name) {
    RunningPhrases phrases = installation.running().phrases().get(name);
    return phrases == null ? null : phrases.phrases();
  }

  /** The live edition of an index, or null if it has none that can be searched. */
  @Nullable SearchedEdition live(String index) {
    SearchedEdition live = installation.running().live(index);
    return live == null || live.damage() != null ? null : live;
  }

  private static Endpoint known(Running running, String name) {
    RunningEndpoint endpoint = running.endpoints().get(name);
    if (endpoint == null) {
      throw new ProblemException(
          ProblemType.UNKNOWN_ENDPOINT,
          "there is no endpoint '" + name + "'",
          NearestName.to(name, running.endpoints().keySet()));
    }
    return endpoint.endpoint();
  }

  private Answering answering(Running running, Endpoint endpoint, SearchedEdition edition) {
    String name = endpoint.newest().name();
    Fitted fitted = endpoint.fit(edition.definition());
    if (fitted == null) {
      throw new ProblemException(
              ProblemType.ENDPOINT_WAITS_FOR_EDITION,
              "endpoint '%s' needs fields of an edition that is still being filled%s"
                  .formatted(name, progress(running, edition.definition().name())))
          .retryAfter(RETRY_SECONDS);
    }
    return new Answering(fitted, edition, null, running.curationsOf(name), helpers, null);
  }

  /**
   * Waits until an edition includes a position of its source.
   *
   * @param told the position, as we or the database write it
   * @throws ProblemException 400 if it is invalid; 503 if it is not reached in time
   */
  public void awaitPosition(Answering answering, String told) {
    String index = answering.edition().definition().name();
    RunningSource source =
        installation.running().sources().get(answering.edition().definition().source());
    Position wanted;
    try {
      wanted = ToldPosition.read(told, source);
    } catch (IllegalArgumentException e) {
      throw new ProblemException(
          ProblemType.BAD_POSITION, "true_for: %s".formatted(e.getMessage()));
    }
    long deadline = System.nanoTime() + MAX_WAIT.toNanos();
    while (true) {
      Position reached = answering.edition().position();
      if (reached != null && reached.reaches(wanted)) {
        return;
      }
      if (System.nanoTime() > deadline) {
        throw new ProblemException(
                ProblemType.NOT_YET_TRUE,
                "index '%s' is at %s and has not reached %s within %d s"
                    .formatted(
                        index,
                        reached == null ? "no position" : reached.told(),
                        told,
                        MAX_WAIT.toSeconds()))
            .retryAfter(1);
      }
      try {
        TimeUnit.MILLISECONDS.sleep(POLL_MILLIS);
      } catch (InterruptedException e) {
        Thread.currentThread().interrupt();
        return;
      }
    }
  }

  private static String progress(Running running, String name) {
    RunningIndex index = running.indexes().get(name);
    Edition filling = index == null ? null : index.editions().next();
    if (filling == null) {
      return "";
    }
    FeedStatus status = filling.feed().status();
    String problem = status.problem() == null ? "" : "; " + status.problem();
    return ": %d of %d records%s".formatted(status.recordsDone(), status.recordsTotal(), problem);
  }
}
