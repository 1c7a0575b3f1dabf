package org.mnemex.shop;

import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.util.List;
import org.mnemex.client.MnemexClient;
import org.mnemex.client.ProblemException;
import org.mnemex.client.SearchAnswer;
import org.mnemex.client.SearchQuery;
import org.mnemex.client.Suggested;
import org.mnemex.client.UnreachableException;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.util.MultiValueMap;
import org.springframework.web.bind.annotation.ExceptionHandler;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.ResponseBody;

/** The shop's page. */
@Controller
public class ShopController {
  private static final String ENDPOINT = "shop-search";
  private static final List<String> FACETS = List.of("kind", "colour", "price", "in_stock");

  private final MnemexClient search;
  private final Products products;

  /** A page over a search service and a database. */
  public ShopController(MnemexClient search, Products products) {
    this.search = search;
    this.products = products;
  }

  @GetMapping("/")
  String page(
      @RequestParam(defaultValue = "") String q,
      @RequestParam(defaultValue = "1") int page,
      @RequestParam MultiValueMap<String, String> parameters,
      Model model) {
    SearchQuery query = SearchQuery.words(q).page(page, null);
    for (String facet : FACETS) {
      for (String value : parameters.getOrDefault(facet, List.of())) {
        query = query.choose(facet, value);
      }
    }
    SearchAnswer answer = search.search(ENDPOINT, query);
    model.addAttribute("q", q);
    model.addAttribute("answer", answer);
    model.addAttribute("products", products.of(answer));
    return "shop";
  }

  /** What the search box offers: nothing while the search cannot be reached. */
  @GetMapping("/suggest")
  @ResponseBody
  List<String> suggest(@RequestParam String q) {
    try {
      return search.suggest(ENDPOINT, q, 6).stream().map(Suggested::text).toList();
    } catch (ProblemException | UnreachableException e) {
      return List.of();
    }
  }

  @PostMapping("/buy")
  String buy(@RequestParam String sku, @RequestParam(defaultValue = "") String q) {
    products.sell(sku);
    return "redirect:/?q=" + URLEncoder.encode(q, StandardCharsets.UTF_8);
  }

  /** The shop goes on without its search: nothing is found, and the page says why. */
  @ExceptionHandler({ProblemException.class, UnreachableException.class})
  String unavailable(Model model) {
    model.addAttribute("q", "");
    model.addAttribute("products", List.of());
    return "shop";
  }
}
