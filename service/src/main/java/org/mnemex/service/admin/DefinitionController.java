package org.mnemex.service.admin;

import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.tags.Tag;
import java.util.List;
import org.mnemex.service.run.Applied;
import org.mnemex.service.run.DefinitionFile;
import org.mnemex.service.run.Installation;
import org.mnemex.service.store.DefinitionMapper;
import org.mnemex.service.store.DefinitionRow;
import org.mnemex.service.web.ProblemException;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RestController;

/** Definitions: what is wanted. */
@Tag(name = "Definitions", description = "what is wanted")
@RestController
public class DefinitionController {
  private final Installation installation;
  private final DefinitionMapper definitions;

  public DefinitionController(Installation installation, DefinitionMapper definitions) {
    this.installation = installation;
    this.definitions = definitions;
  }

  /** Files to apply together. */
  public record ApplyBody(List<DefinitionFile> files) {}

  /** What applying did, definition by definition. */
  public record ApplyAnswer(List<Applied> applied) {}

  @Operation(
      summary = "Apply definitions: all of them or none",
      description =
          "A changed index is built as a new edition beside the live one and promoted when it has"
              + " caught up.")
  @PostMapping("/api/definitions")
  public ApplyAnswer apply(@RequestBody ApplyBody body) {
    if (body.files() == null || body.files().isEmpty()) {
      throw ProblemException.badRequest("no-files", "'files' is empty; send at least one", null);
    }
    return new ApplyAnswer(installation.apply(body.files()));
  }

  /** The current version of each definition. */
  @GetMapping("/api/definitions")
  public List<DefinitionRow> list() {
    return definitions.current();
  }

  /** All versions of a definition, newest first. */
  @GetMapping("/api/definitions/{kind}/{name}")
  public List<DefinitionRow> versions(@PathVariable String kind, @PathVariable String name) {
    List<DefinitionRow> versions = definitions.versions(kind, name);
    if (versions.isEmpty()) {
      throw ProblemException.notFound(
          "unknown-definition", "there is no " + kind + " '" + name + "'", null);
    }
    return versions;
  }
}
