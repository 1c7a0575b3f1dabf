package org.mnemex.service.store;

import java.sql.CallableStatement;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import org.apache.ibatis.type.BaseTypeHandler;
import org.apache.ibatis.type.JdbcType;
import org.apache.ibatis.type.MappedTypes;
import org.jspecify.annotations.Nullable;
import org.mnemex.grammar.DefinitionKind;

/** Stores kinds of definitions as their words. */
@MappedTypes(DefinitionKind.class)
public final class DefinitionKindHandler extends BaseTypeHandler<DefinitionKind> {
  @Override
  public void setNonNullParameter(
      PreparedStatement statement, int i, DefinitionKind kind, JdbcType type) throws SQLException {
    statement.setString(i, kind.word());
  }

  @Override
  public @Nullable DefinitionKind getNullableResult(ResultSet row, String column)
      throws SQLException {
    return kind(row.getString(column));
  }

  @Override
  public @Nullable DefinitionKind getNullableResult(ResultSet row, int column) throws SQLException {
    return kind(row.getString(column));
  }

  @Override
  public @Nullable DefinitionKind getNullableResult(CallableStatement statement, int column)
      throws SQLException {
    return kind(statement.getString(column));
  }

  private static @Nullable DefinitionKind kind(@Nullable String word) {
    return word == null ? null : DefinitionKind.of(word);
  }
}
