package org.mnemex.service.admin;

import com.fasterxml.jackson.annotation.JsonSetter;
import com.fasterxml.jackson.annotation.Nulls;
import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.tags.Tag;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.mnemex.grammar.DefinitionKind;
import org.mnemex.grammar.DefinitionProblem;
import org.mnemex.service.MnemexSettings;
import org.mnemex.service.compute.BoundedCalls;
import org.mnemex.service.definition.DefinitionId;
import org.mnemex.service.install.Applied;
import org.mnemex.service.install.DefinitionFile;
import org.mnemex.service.install.Installation;
import org.mnemex.service.install.PlanView;
import org.mnemex.service.install.VersionComparison;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;
import org.mnemex.service.record.DefinitionPreview;
import org.mnemex.service.status.Feeds;
import org.mnemex.service.store.DefinitionMapper;
import org.mnemex.service.store.DefinitionRow;
import org.mnemex.service.web.Callers;
import org.springframework.http.HttpHeaders;
import org.springframework.http.ResponseEntity;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestHeader;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** Definitions: listing, planning and applying them. */
@Tag(name = "Definitions", description = "what is wanted")
@RestController
public class DefinitionController {
  private final Installation installation;
  private final DefinitionMapper definitions;
  private final Feeds feeds;
  private final DefinitionPreview preview;
  private final VersionComparison versions;
  private final BoundedCalls calls;
  private final Callers callers;
  private final MnemexSettings settings;

  public DefinitionController(
      Installation installation,
      DefinitionMapper definitions,
      Feeds feeds,
      DefinitionPreview preview,
      VersionComparison versions,
      BoundedCalls calls,
      Callers callers,
      MnemexSettings settings) {
    this.settings = settings;
    this.callers = callers;
    this.calls = calls;
    this.versions = versions;
    this.preview = preview;
    this.feeds = feeds;
    this.installation = installation;
    this.definitions = definitions;
  }

  /**
   * Files to apply together.
   *
   * @param files the files
   * @param prepare whether what they need may be created in source databases
   * @param plan the plan that was approved; without it, the definitions are applied whatever that
   *     takes
   * @param hold whether new editions wait for approval when they are complete
   */
  public record ApplyBody(
      @JsonSetter(contentNulls = Nulls.FAIL) List<DefinitionFile> files,
      @Nullable Boolean prepare,
      @Nullable String plan,
      @Nullable Boolean hold) {}

  /**
   * Files to plan together.
   *
   * @param files the files
   */
  public record PlanBody(@JsonSetter(contentNulls = Nulls.FAIL) List<DefinitionFile> files) {}

  /**
   * What applying did, definition by definition.
   *
   * @param applied one entry per definition, in the order of the files
   */
  public record ApplyAnswer(List<Applied> applied) {}

  @Operation(
      summary = "Apply definitions, all of them or none",
      description =
          "A changed index is built as a new edition beside the live one and promoted when it has"
              + " caught up. The author is taken from the header From (RFC 9110) and recorded"
              + " with each version.")
  @PostMapping("/api/definitions")
  public ApplyAnswer apply(
      @RequestBody ApplyBody body,
      @RequestHeader(name = HttpHeaders.FROM, defaultValue = "") String author) {
    if (settings.takesDefinitions()) {
      throw new ProblemException(
          ProblemType.ONE_SHARD,
          "this service builds shard %s and takes definitions over from the builder of shard 0; apply them there"
              .formatted(settings.ownShard()));
    }
    return new ApplyAnswer(
        installation.apply(
            files(body.files()),
            new Installation.ApplyOptions(
                Boolean.TRUE.equals(body.prepare()),
                body.plan(),
                Boolean.TRUE.equals(body.hold()),
                callers.author(Author.of(author)))));
  }

  private static List<DefinitionFile> files(@Nullable List<DefinitionFile> files) {
    if (files == null || files.isEmpty()) {
      throw new ProblemException(ProblemType.NO_FILES, "'files' is empty; send at least one");
    }
    return files;
  }

  @Operation(
      summary = "Plan what applying definitions would do",
      description =
          "Every difference with its cost and reason, estimates from measured rates, and warnings."
              + " Nothing is changed. Apply with the plan's identifier to do exactly that.")
  @PostMapping("/api/plan")
  public PlanView plan(@RequestBody PlanBody body) {
    List<DefinitionFile> files = files(body.files());
    return calls.run("planning definitions", () -> installation.plan(files));
  }

  /**
   * The problems in the files that were checked.
   *
   * @param problems all problems; empty if there are none
   */
  public record CheckAnswer(List<DefinitionProblem> problems) {}

  @Operation(
      summary = "Check definitions without asking databases",
      description = "Fast enough for each keystroke. Nothing is changed.")
  @PostMapping("/api/check")
  public CheckAnswer check(@RequestBody PlanBody body) {
    List<DefinitionFile> files = files(body.files());
    return new CheckAnswer(calls.run("checking definitions", () -> installation.check(files)));
  }

  /**
   * What to preview.
   *
   * @param files definitions that are not applied; without them, the current ones
   * @param index the index; may be left out if the files define one
   * @param key key of the record; without it, the first one
   */
  public record PreviewBody(
      @JsonSetter(contentNulls = Nulls.FAIL) @Nullable List<DefinitionFile> files,
      @Nullable String index,
      @Nullable String key) {}

  @Operation(
      summary = "Preview one record under new definitions",
      description =
          "Reads it from the database: the record, the document's fields and their terms. The"
              + " definitions need not be applied, and nothing is changed.")
  @PostMapping("/api/preview")
  public DefinitionPreview.Previewed preview(@RequestBody PreviewBody body) {
    String index = body.index();
    if (index == null) {
      throw new ProblemException(ProblemType.NO_INDEX, "'index' is missing");
    }
    List<DefinitionFile> files = body.files() == null ? List.of() : body.files();
    return calls.run(
        "trying definitions on a record", () -> preview.preview(files, index, body.key()));
  }

  @Operation(
      summary = "Remove a definition",
      description =
          "Removing an index also removes its editions and readers; an endpoint stops"
              + " answering. A definition that another one needs is refused.")
  @DeleteMapping("/api/definitions/{kind}/{name}")
  public ResponseEntity<Void> remove(@PathVariable String kind, @PathVariable String name) {
    DefinitionKind known = kind(kind, name);
    installation.remove(new DefinitionId(known, name));
    if (known == DefinitionKind.INDEX) {
      // A later index of that name must not start paused.
      feeds.forgetGone();
    }
    return ResponseEntity.noContent().build();
  }

  @Operation(summary = "List the current definitions")
  @GetMapping("/api/definitions")
  public List<DefinitionRow> list() {
    return definitions.current();
  }

  @Operation(
      summary = "Compare two versions of a definition",
      description = "In words with the cost of each difference, for an index; and line by line.")
  @GetMapping("/api/definitions/{kind}/{name}/differences")
  public VersionComparison.Compared differences(
      @PathVariable String kind,
      @PathVariable String name,
      @RequestParam int from,
      @RequestParam int to) {
    return versions.between(kind(kind, name), name, from, to);
  }

  @Operation(summary = "List all versions of a definition, newest first")
  @GetMapping("/api/definitions/{kind}/{name}")
  public List<DefinitionRow> versions(@PathVariable String kind, @PathVariable String name) {
    List<DefinitionRow> versions = definitions.versions(kind(kind, name), name);
    if (versions.isEmpty()) {
      throw unknown(kind, name);
    }
    return versions;
  }

  private static DefinitionKind kind(String word, String name) {
    DefinitionKind kind = DefinitionKind.of(word);
    if (kind == null) {
      throw unknown(word, name);
    }
    return kind;
  }

  private static ProblemException unknown(String kind, String name) {
    return new ProblemException(
        ProblemType.UNKNOWN_DEFINITION, "there is no %s '%s'".formatted(kind, name));
  }
}
