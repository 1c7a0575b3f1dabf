package org.mnemex.garden;

import java.util.List;

/** The words of the garden. */
final class Vocabulary {
  /** Family, genus, and its name in English, French, German and Japanese. */
  static final List<String[]> GENERA =
      rows(
          """
          Aspleniaceae|Asplenium|spleenwort|doradille|Streifenfarn|チャセンシダ
          Dryopteridaceae|Dryopteris|wood fern|fougère|Wurmfarn|オシダ
          Dryopteridaceae|Polystichum|shield fern|polystic|Schildfarn|イノデ
          Athyriaceae|Athyrium|lady fern|fougère femelle|Frauenfarn|メシダ
          Rosaceae|Rosa|rose|rosier|Rose|バラ
          Rosaceae|Prunus|cherry|cerisier|Kirsche|サクラ
          Rosaceae|Geum|avens|benoîte|Nelkenwurz|ダイコンソウ
          Ericaceae|Rhododendron|rhododendron|rhododendron|Alpenrose|シャクナゲ
          Ericaceae|Erica|heath|bruyère|Heide|エリカ
          Hydrangeaceae|Hydrangea|hydrangea|hortensia|Hortensie|アジサイ
          Asparagaceae|Hosta|plantain lily|hosta|Funkie|ギボウシ
          Asparagaceae|Convallaria|lily of the valley|muguet|Maiglöckchen|スズラン
          Lamiaceae|Salvia|sage|sauge|Salbei|サルビア
          Lamiaceae|Lavandula|lavender|lavande|Lavendel|ラベンダー
          Ranunculaceae|Anemone|anemone|anémone|Windröschen|アネモネ
          Ranunculaceae|Helleborus|hellebore|hellébore|Nieswurz|クリスマスローズ
          Ranunculaceae|Clematis|clematis|clématite|Waldrebe|クレマチス
          Oleaceae|Fraxinus|ash|frêne|Esche|トネリコ
          Sapindaceae|Acer|maple|érable|Ahorn|カエデ
          Fagaceae|Quercus|oak|chêne|Eiche|コナラ
          Betulaceae|Betula|birch|bouleau|Birke|カバノキ
          Iridaceae|Iris|iris|iris|Schwertlilie|アヤメ
          Saxifragaceae|Saxifraga|saxifrage|saxifrage|Steinbrech|ユキノシタ
          Crassulaceae|Sedum|stonecrop|orpin|Fetthenne|マンネングサ
          Magnoliaceae|Magnolia|magnolia|magnolia|Magnolie|モクレン
          Primulaceae|Primula|primrose|primevère|Primel|サクラソウ
          """);

  /** Epithet, and its meaning in English, French, German and Japanese. */
  static final List<String[]> EPITHETS =
      rows(
          """
          umbrosa|shade|des ombres|Schatten|ヒカゲ
          alpina|alpine|des Alpes|Alpen|ミヤマ
          japonica|Japanese|du Japon|Japanische|ニホン
          vulgaris|common|commun|Gewöhnliche|ナミ
          scolopendria|hart's-tongue|langue-de-cerf|Hirschzungen|コタニ
          grandiflora|large-flowered|à grandes fleurs|Großblütige|オオバナ
          nana|dwarf|nain|Zwerg|ヒメ
          palustris|marsh|des marais|Sumpf|ヌマ
          sylvatica|woodland|des bois|Wald|モリノ
          montana|mountain|des montagnes|Berg|ヤマ
          alba|white|blanc|Weiße|シロバナ
          rubra|red|rouge|Rote|アカバナ
          purpurea|purple|pourpre|Purpur|ムラサキ
          aurea|golden|doré|Gold|キンイロ
          glauca|blue-grey|glauque|Blaugrüne|アオ
          repens|creeping|rampant|Kriechende|ツル
          odorata|scented|odorant|Duftende|ニオイ
          autumnalis|autumn|d'automne|Herbst|アキ
          vernalis|spring|de printemps|Frühlings|ハル
          hybrida|hybrid|hybride|Hybrid|ザッシュ
          tomentosa|woolly|laineux|Filzige|ケ
          lucida|shining|luisant|Glänzende|テリハ
          maritima|seaside|maritime|Strand|ハマ
          crispa|curly|crépu|Krause|チヂミ
          """);

  static final List<String> BEDS =
      List.of(
          "Fern Gully",
          "North Wall",
          "Rose Walk",
          "Alpine House",
          "Lower Pond",
          "Physic Border",
          "Orchard Slope",
          "Moss Court",
          "Heath Bank",
          "Palm House",
          "Woodland Ride",
          "Herb Terrace",
          "Bog Garden",
          "East Rockery",
          "Long Border",
          "Nursery Frames");

  static final List<String> LABELS =
      List.of(
          "award of merit",
          "bee-friendly",
          "children's trail",
          "conservation collection",
          "Darwin's list",
          "scented",
          "poisonous",
          "type specimen",
          "winter interest",
          "under review");

  static final List<String> FIRST_NAMES =
      List.of(
          "Ada", "Benoît", "Clara", "Dmitri", "Eun-ji", "Florian", "Greta", "Hugo", "Ines",
          "Jürgen", "Keiko", "Liam", "Maud", "Noor", "Otto", "Pilar", "Quentin", "Rosa", "Søren",
          "Tamsin");

  static final List<String> LAST_NAMES =
      List.of(
          "Ashdown",
          "Birch",
          "Castellane",
          "Dobson",
          "Eriksen",
          "Fennimore",
          "Grünwald",
          "Hartley",
          "Ishikawa",
          "Jansen",
          "Kestrel",
          "Lindqvist",
          "Marlowe",
          "Nakagawa",
          "O'Rourke",
          "Pemberton",
          "Quill",
          "Rookwood",
          "Sorrel",
          "Thistlewood");

  /** Lists for the slots of sentences; frequent words first. */
  static final List<String> PLACES =
      List.of(
          "deep shade",
          "full sun",
          "damp soil",
          "the frost pocket",
          "light shade",
          "the gravel",
          "peaty soil",
          "the stone trough",
          "the shelter of the wall",
          "standing water",
          "chalk");

  static final List<String> QUALITIES =
      List.of(
          "healthy",
          "slow to settle",
          "vigorous",
          "leggy",
          "fully hardy",
          "sulking",
          "variegated",
          "evergreen in mild winters",
          "late into leaf",
          "prone to rust",
          "free-flowering");

  static final List<String> CAUSES =
      List.of(
          "slugs",
          "late frost",
          "drought",
          "vine weevil",
          "honey fungus",
          "rabbits",
          "aphids",
          "heavy rain",
          "scale insects",
          "grey mould",
          "a falling branch",
          "ashes from the bonfire");

  static final List<String> PARTS =
      List.of(
          "fronds",
          "leaves",
          "buds",
          "roots",
          "stems",
          "flowers",
          "branches",
          "seed heads",
          "new shoots",
          "crowns",
          "fruits");

  static final List<String> ACTS =
      List.of(
          "mulched with leaf mould",
          "divided and replanted",
          "cut back hard",
          "staked",
          "moved from the nursery",
          "washed and repotted",
          "fed in spring",
          "propagated from seed",
          "treated with nematodes",
          "photographed for the guide",
          "labelled again");

  static final List<String> SENTENCES =
      List.of(
          "Thrives in %p, %q.",
          "The %r were damaged by %c; %a.",
          "A %q plant from %p.",
          "Needs %p and dislikes %c.",
          "%R showing after %c.",
          "Was %a, since when it has been %q.",
          "Visitors ask for the %r in %p.",
          "Watch for %c in %p.",
          "Keep apart from others: %r attract %c.",
          "Wild collected, now %q in %p.");

  private Vocabulary() {}

  private static List<String[]> rows(String table) {
    return table.lines().map(line -> line.split("\\|")).toList();
  }
}
