package org.mnemex.service.store;

import java.util.Objects;
import javax.sql.DataSource;
import org.apache.ibatis.session.Configuration;
import org.mybatis.spring.SqlSessionFactoryBean;
import org.mybatis.spring.SqlSessionTemplate;
import org.springframework.boot.sql.init.dependency.DependsOnDatabaseInitialization;
import org.springframework.context.annotation.Bean;
import org.springframework.transaction.PlatformTransactionManager;
import org.springframework.transaction.support.TransactionTemplate;

/**
 * Makes the mappers of our records, and what several of them write in one transaction. Each is
 * named here, because a search for them would cost every start of the service time.
 */
@org.springframework.context.annotation.Configuration(proxyBeanMethods = false)
class Mappers {
  @Bean
  @DependsOnDatabaseInitialization
  SqlSessionTemplate sqlSessions(DataSource records) throws Exception {
    Configuration configuration = new Configuration();
    configuration.setMapUnderscoreToCamelCase(true);
    configuration.getTypeHandlerRegistry().register(DefinitionKindHandler.class);
    SqlSessionFactoryBean factory = new SqlSessionFactoryBean();
    factory.setDataSource(records);
    factory.setConfiguration(configuration);
    return new SqlSessionTemplate(Objects.requireNonNull(factory.getObject()));
  }

  @Bean
  TransactionTemplate transaction(PlatformTransactionManager manager) {
    return new TransactionTemplate(manager);
  }

  @Bean
  AccessKeyMapper accessKeyMapper(SqlSessionTemplate sqlSessions) {
    return mapper(AccessKeyMapper.class, sqlSessions);
  }

  @Bean
  ActivityMapper activityMapper(SqlSessionTemplate sqlSessions) {
    return mapper(ActivityMapper.class, sqlSessions);
  }

  @Bean
  AuditMapper auditMapper(SqlSessionTemplate sqlSessions) {
    return mapper(AuditMapper.class, sqlSessions);
  }

  @Bean
  ConditionMapper conditionMapper(SqlSessionTemplate sqlSessions) {
    return mapper(ConditionMapper.class, sqlSessions);
  }

  @Bean
  DefinitionMapper definitionMapper(SqlSessionTemplate sqlSessions) {
    return mapper(DefinitionMapper.class, sqlSessions);
  }

  @Bean
  DepartureMapper departureMapper(SqlSessionTemplate sqlSessions) {
    return mapper(DepartureMapper.class, sqlSessions);
  }

  @Bean
  EditionMapper editionMapper(SqlSessionTemplate sqlSessions) {
    return mapper(EditionMapper.class, sqlSessions);
  }

  @Bean
  FeedMapper feedMapper(SqlSessionTemplate sqlSessions) {
    return mapper(FeedMapper.class, sqlSessions);
  }

  @Bean
  InsightMapper insightMapper(SqlSessionTemplate sqlSessions) {
    return mapper(InsightMapper.class, sqlSessions);
  }

  @Bean
  JobMapper jobMapper(SqlSessionTemplate sqlSessions) {
    return mapper(JobMapper.class, sqlSessions);
  }

  @Bean
  PushMapper pushMapper(SqlSessionTemplate sqlSessions) {
    return mapper(PushMapper.class, sqlSessions);
  }

  @Bean
  QuarantineMapper quarantineMapper(SqlSessionTemplate sqlSessions) {
    return mapper(QuarantineMapper.class, sqlSessions);
  }

  @Bean
  ScoreMapper scoreMapper(SqlSessionTemplate sqlSessions) {
    return mapper(ScoreMapper.class, sqlSessions);
  }

  private static <T> T mapper(Class<T> type, SqlSessionTemplate sqlSessions) {
    sqlSessions.getConfiguration().addMapper(type);
    return sqlSessions.getMapper(type);
  }
}
