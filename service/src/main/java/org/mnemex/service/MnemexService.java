package org.mnemex.service;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Clock;
import java.time.ZoneOffset;
import java.util.Locale;
import java.util.regex.Pattern;
import org.springframework.aot.AotDetector;
import org.springframework.beans.factory.config.BeanFactoryPostProcessor;
import org.springframework.beans.factory.config.ConfigurableListableBeanFactory;
import org.springframework.boot.SpringApplication;
import org.springframework.boot.autoconfigure.SpringBootApplication;
import org.springframework.boot.context.event.ApplicationEnvironmentPreparedEvent;
import org.springframework.boot.context.properties.ConfigurationPropertiesScan;
import org.springframework.context.ApplicationListener;
import org.springframework.context.ConfigurableApplicationContext;
import org.springframework.context.annotation.Bean;
import org.springframework.scheduling.annotation.EnableScheduling;
import org.springframework.util.ClassUtils;
import org.sqlite.SQLiteJDBCLoader;

/** Starts the service. */
@SpringBootApplication(proxyBeanMethods = false)
@ConfigurationPropertiesScan
@EnableScheduling
public class MnemexService {
  private static final int USAGE = 2;
  private static final int CARRIERS_A_PROCESSOR = 4;

  /** How many virtual threads run at once; the JDK reads it when the first one starts. */
  private static final String CARRIERS = "jdk.virtualThreadScheduler.parallelism";

  private static final String TRACES = "management.opentelemetry.enabled";

  private static final Pattern SETTING =
      Pattern.compile("--(server|mnemex|spring|logging|management)\\.[\\w.\\[\\]-]+=.*");

  /** Starts the service; settings come from arguments, the environment and application.yaml. */
  public static void main(String[] args) {
    // Programs read the numbers in answers, files and SQL, so they are the same on all machines.
    Locale.setDefault(Locale.ROOT);
    for (String argument : args) {
      if (!SETTING.matcher(argument).matches()) {
        // Unchecked, it would silently change nothing.
        System.err.println(
            "'%s' is not a setting of the service; write --server.port=7078 or --mnemex.data=FOLDER"
                .formatted(argument));
        System.exit(USAGE);
      }
    }
    shareProcessors();
    loadDatabase();
    SpringApplication application = new SpringApplication(MnemexService.class);
    application.addListeners(new BeansOfBuild());
    application.addInitializers(MnemexService::makeDataFolder);
    application.run(args);
  }

  /**
   * Gives calls more threads than searches have, so that the operating system lets calls of
   * administration run while all slots for searches compute.
   */
  private static void shareProcessors() {
    if (System.getProperty(CARRIERS) == null) {
      int processors = Runtime.getRuntime().availableProcessors();
      System.setProperty(CARRIERS, Integer.toString(CARRIERS_A_PROCESSOR * processors));
    }
  }

  /** SQLite's own library is unpacked and loaded while the first beans are made. */
  private static void loadDatabase() {
    Thread.ofPlatform()
        .daemon()
        .name("loading SQLite")
        .start(
            () -> {
              try {
                SQLiteJDBCLoader.initialize();
              } catch (Exception e) {
                // Told by the first connection, which tries it again.
              }
            });
  }

  /**
   * Takes from the build which beans there are, which makes a start much shorter. Traces need beans
   * that the build leaves out, so with them it is found out again.
   */
  private static final class BeansOfBuild
      implements ApplicationListener<ApplicationEnvironmentPreparedEvent> {
    @Override
    public void onApplicationEvent(ApplicationEnvironmentPreparedEvent event) {
      boolean built =
          ClassUtils.isPresent(
              MnemexService.class.getName() + "__ApplicationContextInitializer",
              MnemexService.class.getClassLoader());
      boolean traces = event.getEnvironment().getProperty(TRACES, Boolean.class, false);
      if (built && !traces && System.getProperty(AotDetector.AOT_ENABLED) == null) {
        System.setProperty(AotDetector.AOT_ENABLED, "true");
      }
    }
  }

  /** SQLite does not create the data folder for our records. */
  private static void makeDataFolder(ConfigurableApplicationContext context) {
    Path data = Path.of(context.getEnvironment().getProperty("mnemex.data", "mnemex-data"));
    try {
      Files.createDirectories(data);
    } catch (IOException e) {
      throw new UncheckedIOException("the data folder " + data + " cannot be made", e);
    }
  }

  /**
   * Which beans there are does not change any more, so their names by type are kept from the first
   * bean on, and not only from when the web server is there. It has no order, so it comes after
   * what says which beans wait for the migrations.
   */
  @Bean
  static BeanFactoryPostProcessor allBeansAreKnown() {
    return ConfigurableListableBeanFactory::freezeConfiguration;
  }

  @Bean
  Clock clock() {
    // Milliseconds: databases and people do not need more.
    return Clock.tickMillis(ZoneOffset.UTC);
  }
}
