package org.mnemex.service.install;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import org.mnemex.grammar.DefinitionKind;
import org.mnemex.grammar.DefinitionPart;
import org.mnemex.grammar.DefinitionProblem;
import org.mnemex.grammar.ParsedFile;
import org.mnemex.service.definition.DefinitionId;

/**
 * Definitions from files, checked against the grammar only.
 *
 * @param parts each definition, once
 * @param problems by the definition that has them
 * @param fileProblems those that belong to no definition
 */
record ParsedChanges(
    Map<DefinitionId, DefinitionPart> parts,
    Map<DefinitionId, List<DefinitionProblem>> problems,
    List<DefinitionProblem> fileProblems) {

  static ParsedChanges of(List<DefinitionFile> files) {
    Map<DefinitionId, DefinitionPart> parts = new TreeMap<>();
    Map<DefinitionId, List<DefinitionProblem>> problems = new TreeMap<>();
    List<DefinitionProblem> fileProblems = new ArrayList<>();
    for (DefinitionFile file : files) {
      ParsedFile parsed = ParsedFile.read(file.name(), file.text());
      fileProblems.addAll(parsed.problems());
      for (DefinitionPart part : parsed.parts()) {
        DefinitionId id = new DefinitionId(part.kind(), part.name());
        List<DefinitionProblem> own = parsed.problemsOf(part);
        DefinitionPart before = parts.putIfAbsent(id, part);
        if (before != null) {
          own = new ArrayList<>(own);
          own.add(
              new DefinitionProblem(
                  part.file(),
                  part.line(),
                  1,
                  part.kind().word(),
                  "'%s' is defined twice, also in %s".formatted(part.name(), before.file()),
                  null));
        }
        fileProblems.removeAll(own);
        if (!own.isEmpty()) {
          problems.computeIfAbsent(id, one -> new ArrayList<>()).addAll(own);
        }
      }
    }
    return new ParsedChanges(parts, problems, fileProblems);
  }

  /** The definitions of a kind that the grammar allows. */
  List<DefinitionPart> wellFormed(DefinitionKind kind) {
    return parts.entrySet().stream()
        .filter(one -> one.getKey().kind() == kind && !problems.containsKey(one.getKey()))
        .map(Map.Entry::getValue)
        .toList();
  }
}
