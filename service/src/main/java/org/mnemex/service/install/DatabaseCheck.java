package org.mnemex.service.install;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.mnemex.grammar.DefinitionException;
import org.mnemex.grammar.DefinitionProblem;
import org.mnemex.service.definition.Definition;
import org.mnemex.service.install.RunningDefinition.RunningSource;
import org.mnemex.sync.definition.FieldDefinition;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.definition.InvalidDefinitionException;
import org.mnemex.sync.source.NotPreparedException;
import org.mnemex.sync.source.RecordReader;
import org.mnemex.sync.source.Source;
import org.mnemex.sync.source.SourceUnavailableException;

/** Asks databases whether indexes can be built from them, and prepares them. */
final class DatabaseCheck {
  private DatabaseCheck() {}

  /** A question to a database about an index. */
  private interface Question {
    void ask(IndexStep step, Source source) throws NotPreparedException, SourceUnavailableException;
  }

  /**
   * Asks whether the new editions can be built. Nothing is changed.
   *
   * @throws DefinitionException with every reason against it
   */
  static void check(CheckedChanges changes) {
    ask(
        changes,
        (step, source) -> {
          source.check(step.index().index());
          if (step.needsDatabase()) {
            tryReading(step.index().index(), source);
          }
        });
  }

  /**
   * Prepares the databases for the new editions.
   *
   * @param make whether to create what is missing even if the source's definition says to ask first
   * @throws DefinitionException with everything that is still missing
   */
  static void prepare(CheckedChanges changes, boolean make) {
    ask(
        changes,
        (step, source) -> {
          Map<String, Set<String>> columns = step.index().index().shape().watchedColumns();
          if (make) {
            source.make(columns);
          }
          source.prepare(columns);
        });
  }

  private static void ask(CheckedChanges changes, Question question) {
    List<DefinitionProblem> problems = new ArrayList<>();
    for (IndexStep step : changes.steps().values()) {
      RunningSource source = changes.after().sources().get(step.index().index().source());
      if (source == null || step.action() != IndexStep.Action.BUILD) {
        continue;
      }
      Definition definition = step.index().definition();
      try {
        question.ask(step, source.source());
      } catch (InvalidDefinitionException e) {
        problems.add(definition.problem(e));
      } catch (SourceUnavailableException | NotPreparedException e) {
        problems.add(definition.problem(List.of("source"), String.valueOf(e.getMessage()), null));
      }
    }
    if (!problems.isEmpty()) {
      throw new DefinitionException(problems);
    }
  }

  /** Only the database can check its own SQL. */
  private static void tryReading(IndexDefinition index, Source source)
      throws SourceUnavailableException {
    if (canRead(index, source)) {
      return;
    }
    try (RecordReader records = source.reader(index.shape(), Map.of())) {
      records.readAfter(null, 1);
    } catch (SourceUnavailableException e) {
      throw new InvalidDefinitionException(
          List.of("record"), "the database refuses this: " + e.getMessage(), null);
    }
    for (FieldDefinition field : index.fields()) {
      String sql = field.sql();
      if (sql != null) {
        String name = field.field().name();
        try (RecordReader records = source.reader(index.shape(), Map.of(name, sql))) {
          records.readAfter(null, 1);
        } catch (SourceUnavailableException e) {
          throw new InvalidDefinitionException(
              List.of("fields", name, "sql"), "the database refuses this: " + e.getMessage(), null);
        }
      }
    }
  }

  /** All at once; one by one only if that fails. */
  private static boolean canRead(IndexDefinition index, Source source) {
    try (RecordReader records = source.reader(index.shape(), index.expressions())) {
      records.readAfter(null, 1);
      return true;
    } catch (SourceUnavailableException e) {
      return false;
    }
  }
}
