package org.mnemex.service.admin;

import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.tags.Tag;
import java.util.List;
import java.util.Set;
import org.mnemex.service.run.Sources;
import org.mnemex.sync.source.Catalogue;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.RestController;

/** Databases that records come from. */
@Tag(name = "Sources", description = "databases that records come from")
@RestController
public class SourceController {
  private final Sources sources;

  public SourceController(Sources sources) {
    this.sources = sources;
  }

  /** Names of all sources. */
  @GetMapping("/api/sources")
  public Set<String> names() {
    return sources.names();
  }

  @Operation(
      summary = "Check a source",
      description =
          "Everything that must be there before its changes can be followed, met or not, with the"
              + " statements to run for what is missing.")
  @GetMapping("/api/sources/{source}/check")
  public Sources.Checked check(@PathVariable String source) {
    return sources.check(source);
  }

  /** Tables with their columns and keys. */
  @GetMapping("/api/sources/{source}/tables")
  public List<Catalogue.Table> tables(@PathVariable String source) {
    return sources.tables(source);
  }
}
