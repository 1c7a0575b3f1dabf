package org.mnemex.service.admin;

import com.fasterxml.jackson.annotation.JsonSetter;
import com.fasterxml.jackson.annotation.Nulls;
import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.tags.Tag;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.jspecify.annotations.Nullable;
import org.mnemex.service.install.DefinitionFile;
import org.mnemex.service.status.Sources;
import org.mnemex.sync.source.Catalogue;
import org.springframework.http.ResponseEntity;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** Databases that records come from. */
@Tag(name = "Sources", description = "databases that records come from")
@RestController
public class SourceController {
  private static final int MAX_ROWS = 200;

  private final Sources sources;

  public SourceController(Sources sources) {
    this.sources = sources;
  }

  @Operation(summary = "List all sources")
  @GetMapping("/api/sources")
  public Set<String> names() {
    return sources.names();
  }

  @Operation(
      summary = "Check a source",
      description =
          "Everything that is needed to follow its changes, met or not, with the"
              + " statements to run for what is missing.")
  @GetMapping("/api/sources/{source}/check")
  public Sources.Checked check(@PathVariable String source) {
    return sources.check(source);
  }

  @Operation(summary = "List the tables of a source")
  @GetMapping("/api/sources/{source}/tables")
  public List<Catalogue.Table> tables(@PathVariable String source) {
    return sources.tables(source);
  }

  @Operation(
      summary = "List some rows of a table",
      description =
          "Bytes, columns that any index has under never, and columns that look personal are left out.")
  @GetMapping("/api/sources/{source}/tables/{table}/rows")
  public List<Map<String, Object>> rows(
      @PathVariable String source,
      @PathVariable String table,
      @RequestParam(defaultValue = "20") int limit) {
    return sources.rows(source, table, Math.clamp(limit, 1, MAX_ROWS));
  }

  /**
   * A proposed index.
   *
   * @param yaml the proposed definitions, YAML
   */
  public record DraftAnswer(String yaml) {}

  @Operation(
      summary = "Propose an index over a table",
      description = "From the schema and some rows, every line with its reason.")
  @GetMapping("/api/sources/{source}/draft")
  public DraftAnswer draft(@PathVariable String source, @RequestParam String table) {
    return new DraftAnswer(sources.draft(source, table));
  }

  /**
   * Whether to run the statements or only to list them.
   *
   * @param run true to run them
   */
  public record RunBody(@Nullable Boolean run) {
    boolean isRun() {
      return Boolean.TRUE.equals(run);
    }
  }

  /**
   * What to prepare a source for.
   *
   * @param run whether to run the statements or only to list them
   * @param files definitions that are not applied yet, whose indexes count as well
   */
  public record PrepareBody(
      @Nullable Boolean run,
      @JsonSetter(contentNulls = Nulls.FAIL) @Nullable List<DefinitionFile> files) {}

  @Operation(
      summary = "Prepare a source database for its indexes",
      description =
          "Without 'run: true' the statements are only listed. Nothing else is ever changed. With"
              + " 'files', also for definitions that are not applied yet.")
  @PostMapping("/api/sources/{source}/prepare")
  public Sources.Statements prepare(
      @PathVariable String source, @RequestBody(required = false) @Nullable PrepareBody body) {
    return sources.prepare(
        source,
        body != null && Boolean.TRUE.equals(body.run()),
        body == null || body.files() == null ? List.of() : body.files());
  }

  @Operation(
      summary = "Remove a source and everything Mnemex created in its database",
      description =
          "Without 'run: true' the statements are only listed. Refused while an index uses it.")
  @PostMapping("/api/sources/{source}/forget")
  public Sources.Statements forget(
      @PathVariable String source, @RequestBody(required = false) @Nullable RunBody body) {
    return sources.forget(source, body != null && body.isRun());
  }

  @Operation(
      summary = "Remove a reader from a source",
      description =
          "A reader that feeds no edition of this installation, as the check of the source lists"
              + " it: the database then keeps no changes for it. Another installation that it"
              + " belongs to has to fill its edition again.")
  @DeleteMapping("/api/sources/{source}/readers/{*reader}")
  public ResponseEntity<Void> dropReader(@PathVariable String source, @PathVariable String reader) {
    sources.dropReader(source, reader.startsWith("/") ? reader.substring(1) : reader);
    return ResponseEntity.noContent().build();
  }
}
