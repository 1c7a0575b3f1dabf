package org.mnemex.service.admin;

import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.tags.Tag;
import java.util.List;
import org.mnemex.engine.text.NearestName;
import org.mnemex.grammar.DefinitionKind;
import org.mnemex.grammar.Grammar;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;
import org.springframework.http.MediaType;
import org.springframework.http.ResponseEntity;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.RestController;

/** The JSON Schemas of definitions, for editors and pipelines. */
@Tag(name = "Definitions", description = "what is wanted")
@RestController
public class SchemaController {
  private static final MediaType SCHEMA = MediaType.parseMediaType("application/schema+json");

  @Operation(summary = "List the kinds of definitions")
  @GetMapping("/api/schemas")
  public List<String> kinds() {
    return DefinitionKind.words();
  }

  @Operation(summary = "Get the JSON Schema of a kind of definition (draft 2020-12)")
  @GetMapping("/api/schemas/{kind}")
  public ResponseEntity<String> schema(@PathVariable String kind) {
    DefinitionKind known = DefinitionKind.of(kind);
    if (known == null) {
      throw new ProblemException(
          ProblemType.UNKNOWN_KIND,
          "there is no kind of definition '" + kind + "'",
          NearestName.to(kind, DefinitionKind.words()));
    }
    return ResponseEntity.ok().contentType(SCHEMA).body(Grammar.schema(known));
  }
}
