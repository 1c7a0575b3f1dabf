package org.mnemex.service.install;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.mnemex.service.definition.Definition;
import org.mnemex.service.definition.DefinitionProblem;
import org.mnemex.service.install.Running.RunningIndex;
import org.mnemex.sync.definition.FieldDefinition;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.definition.InvalidDefinitionException;
import org.mnemex.sync.source.NotPreparedException;
import org.mnemex.sync.source.RecordReader;
import org.mnemex.sync.source.Source;
import org.mnemex.sync.source.SourceUnavailableException;

/**
 * Asks databases whether indexes can be built of them.
 *
 * @param preparing what is done about what is missing there
 */
record DatabaseCheck(Preparing preparing) {
  /** What is done about what is missing in a database. */
  enum Preparing {
    /** Databases are not asked at all. */
    UNASKED,
    /** Nothing: a plan changes nothing, also where the source's definition lets us make things. */
    LEAVE,
    /** What the source's definition says. */
    AS_DEFINED,
    /** It is made. */
    MAKE
  }

  /**
   * What speaks against building an index.
   *
   * @param tryReading whether the database has to evaluate its conditions and expressions
   */
  List<DefinitionProblem> problems(RunningIndex index, Source source, boolean tryReading) {
    if (preparing == Preparing.UNASKED) {
      return List.of();
    }
    List<DefinitionProblem> problems = new ArrayList<>();
    Definition definition = index.definition();
    try {
      source.check(index.index());
      if (tryReading) {
        tryReading(index.index(), source);
      }
      if (preparing == Preparing.MAKE) {
        source.make(index.index().shape().watchedColumns());
      }
      if (preparing != Preparing.LEAVE) {
        source.prepare(index.index().shape().watchedColumns());
      }
    } catch (InvalidDefinitionException e) {
      problems.add(definition.problem(e));
    } catch (SourceUnavailableException e) {
      problems.add(definition.problem(List.of("source"), String.valueOf(e.getMessage()), null));
    } catch (NotPreparedException e) {
      problems.add(definition.problem(List.of("source"), String.valueOf(e.getMessage()), null));
    }
    return problems;
  }

  /** Conditions and expressions are SQL of the database; only it can say whether they are right. */
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

  /** All at once; what is wrong is looked for only if something is. */
  private static boolean canRead(IndexDefinition index, Source source) {
    try (RecordReader records = source.reader(index.shape(), index.expressions())) {
      records.readAfter(null, 1);
      return true;
    } catch (SourceUnavailableException e) {
      return false;
    }
  }
}
