package org.mnemex.engine.text;

import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;

/**
 * Built-in lists of the words that every text of a language has: articles, pronouns, prepositions,
 * conjunctions, forms of to be and to have. Written down for this product, in lower case; accents
 * do not matter.
 */
final class Stopwords {
  private static final Map<String, List<String>> LISTS = new TreeMap<>();

  static {
    put(
        "english",
        "a an and are as at be been but by for from had has have he her his i if in into is it its me"
            + " my no nor not of on or our she so such that the their them then there these they"
            + " this those to was we were what when where which while who whom will with you your");
    put(
        "french",
        "a ai as au aux avec c ce ces cet cette d dans de des du elle elles en est et eux il ils j je"
            + " l la le les leur leurs lui m ma mais me mes moi mon n ne nos notre nous on ont ou par"
            + " pas pour qu que qui s sa sans se ses soi son sont sur t ta te tes toi ton tu un une"
            + " vos votre vous y");
    put(
        "german",
        "aber als also am an auch auf aus bei bin bis bist da dann das dass dem den denn der des die"
            + " dies diese diesem diesen dieser dieses doch du ein eine einem einen einer eines er es"
            + " für hat hatte ich ihm ihn ihr ihre im in ist ja kein keine mein mit nach nicht noch"
            + " nur ob oder sehr sein seine sich sie sind so um und uns unter vom von vor war waren"
            + " was wenn wer wie wir wird zu zum zur über");
    put(
        "spanish",
        "a al algo ante como con contra cual cuando de del desde donde e el ella ellas ellos en entre"
            + " era es esa ese eso esta este esto fue ha han hasta hay la las le les lo los me mi muy"
            + " nada ni no nos o para pero por porque que quien se ser si sin sobre son su sus te tu"
            + " un una uno y ya yo");
    put(
        "italian",
        "a ai al alla alle allo anche c che chi ci come con cui d da dai dal dalla dei del della"
            + " delle dello di e ed era gli ha hanno i il in io l la le lei lo loro lui ma mi ne nei"
            + " nel nella noi non o per più quale quando quello questa questo se si sono su sua sue"
            + " suo sul sulla ti tra tu un una uno voi è");
    put(
        "portuguese",
        "a ao aos as até com como da das de dela dele do dos e ela elas ele eles em entre era essa"
            + " esse esta este eu foi há isso já lhe mais mas me meu minha muito na nas nem no nos não"
            + " o os ou para pela pelo por qual quando que quem se sem ser seu sua são só também te"
            + " tem um uma você é à");
    put(
        "dutch",
        "aan al als bij dan dat de der deze die dit door een en er haar had heb heeft hem het hij hoe"
            + " hun ik in is je kan maar me met mijn naar niet nog nu of om onder ons ook op over te"
            + " tot u uit van veel voor was wat we wel werd wie wij worden ze zich zij zijn zo zou");
    put(
        "danish",
        "af alle at blev da de dem den der deres det dette dig din dog du efter eller en end er et for"
            + " fra ham han har havde hende her hun hvad hvis hvor i ikke ind jeg jer kan man med men"
            + " mig min mit nej nogle nu når og om op os over på sig sin som så til ud under var ved"
            + " vi være vil");
    put(
        "norwegian",
        "alle at av ble da de deg dem den der det dette din du eller en enn er et etter for fra ha"
            + " hadde han har hun hva hvem hvis hvor i ikke jeg kan med meg men min noe noen nå når og"
            + " også om opp oss over på seg som så til under ut var ved vi vil være å");
    put(
        "swedish",
        "alla att av bara blev de dem den denna deras dess det detta dig din du där efter eller en er"
            + " ett från för ha hade han hans har hon hur här i icke inte jag kan man med mellan men"
            + " mig min mot mycket ni nu när och om oss på sedan sig sin som så till under upp ut utan"
            + " vad var vi vid vilken är över");
    put(
        "finnish",
        "ei ja jos joka jotka jo he hän ovat on oli olla kun kuin mutta me minä mitä mikä myös niin"
            + " ne nyt sekä se sen siis sitä tai te tämä tuo vaan vai vain että en et emme ole olen"
            + " joita jonka kanssa mukaan");
    put(
        "hungarian",
        "a az egy és ez ezt hogy is de nem meg csak már még ha mint vagy volt van vannak lesz mert"
            + " itt ott így úgy aki ami amely amelyek én te ő mi ti ők ezek azok be ki le fel el");
    put(
        "romanian",
        "a ai al ale am ar are au ca că ce cea cei cel cu cum da dar de din după ea ei el ele este eu"
            + " fi fost i iar în la le lor lui mai me mi ne nici noi nu o pe pentru prin sa sau se si"
            + " sunt și tu un una unei unui va vă vor");
    put(
        "russian",
        "а без бы был была были было быть в вам вас во вот все всё вы да для до его ее её ей ему если"
            + " есть еще же за здесь и из или им их к как ко когда кто ли мне мы на над надо не него"
            + " нет ни но ну о об он она они оно от по под при с со так также там то того тоже той"
            + " только том ты у уже чего чем что чтобы это этого этой этот я");
    put(
        "turkish",
        "acaba ama bazı belki ben bir biz bu çok çünkü da daha de defa diye eğer en gibi hem hep her"
            + " hiç için ile ise kez ki kim mi mu mü nasıl ne neden niçin o sanki siz şu tüm ve veya"
            + " ya yani");
    put(
        "catalan",
        "a al als amb aquest aquesta això com d de del dels el els en entre era és ha han hi i l la"
            + " les li lo més meu no o on per però què que qui se sense seu si són també un una uns"
            + " va");
    put(
        "greek",
        "ο η το οι τα του της των τον την και κι να με σε για από στο στη στην στον που πως αν δεν μη"
            + " μην θα είναι ήταν ή αλλά ως μια ένα ένας εγώ εσύ αυτός αυτή αυτό");
    put(
        "indonesian",
        "ada adalah akan atau bagi bahwa bisa dalam dan dari dengan di ia ini itu juga kami karena ke"
            + " kita lebih maka mereka oleh pada saya sebagai seperti serta sudah telah tidak untuk"
            + " yang");
    put(
        "irish",
        "a ach ag agus an ar as ba cé cén d de den do don faoi i in is le leis mar mé mo na ná ní nó ó"
            + " roimh sa san sé sí sin siad thar trí tú um");
    put(
        "arabic",
        "في من على إلى عن مع هذا هذه ذلك تلك التي الذي الذين ما لا لم لن إن أن كان كانت هو هي هم نحن"
            + " أنا أنت و أو ثم قد كل بعد قبل بين حتى إذا عند غير");
    put(
        "bulgarian",
        "а без беше би в вас ви все да до его за и из или им как като когато кой ли ми на не нещо ни но"
            + " някой от по под при с са се си след той това тя ще що я");
    put(
        "croatian",
        "a ako ali bi bila bili bilo bio da do ga i ili iz ja je jer joj još kad kako koja koje koji"
            + " kao li me mi mu na ne nego no o od on ona oni ono po s sa se su sve ta te ti to u uz"
            + " već za što");
    put(
        "czech",
        "a aby ale ani až bez být by byl byla bylo co či do ho i já jak jako je jeho její jejich jen"
            + " ještě již k kde kdo když která které který ma má mezi mi na nad ne nebo není než o od"
            + " on pak po pod podle pro proto při s se si so svůj ta tak také tato ten tento to tu v"
            + " ve však z za ze že");
    put(
        "slovak",
        "a aby aj ak ako ale alebo ani áno bez bol bola bolo by byť čo do ho i ja je jej jeho ich iba"
            + " k kde keď ktorá ktoré ktorý ma má medzi na nad nie než o od on po pod pre pri s sa si"
            + " sme so som sú ta tak ten to tu už v vo však z za že");
    put(
        "slovenian",
        "a ali bi bil bila bilo da do ga in iz ja je jih k kako kaj ker ki ko na ne ni o od pa po pri"
            + " s sem si se smo so tako te ti to tudi v z za že");
    put(
        "polish",
        "a aby ale bardzo bez być był była było by co czy dla do gdy go i ich ja jak jako je jego jej"
            + " jest jeszcze już kiedy kto która które który lub ma mi mnie może na nad nie niż no o od"
            + " on ona oni oraz po pod przed przez przy s są się tak także tam ten tego tej to tu tylko"
            + " u w we więc z za ze że");
    put(
        "ukrainian",
        "а або але без би був була були було в вам вас ви від він вона вони воно все для до є ж за з"
            + " зі і із й його її їх як яка яке який коли кого ми мені на над не ні ну о об по при про"
            + " та так також те ти то той тут у уже це цей що щоб я");
    put(
        "lithuanian",
        "ar aš bei bet bus buvo dar dėl ir iš į jau jei jie jis jo ji jos jų kad kai kaip ko kuri"
            + " kuris mes nei nes nuo o per po prie su ta tai tas tik tu už yra");
    put(
        "latvian",
        "ar arī bet bez bija būs caur es gan ir it ja jau jo jūs ka kad kā kas kur ko mēs ne nav no"
            + " par pa pie pēc tad tā tas te tu tur un uz vai viņa viņi viņš vēl");
    put(
        "estonian",
        "aga ei ega et ja juba ka kas kes kui kuid ma me mida mis mitte no nad need nii nüüd oli olid"
            + " olema on oma sa see seda selle siin siis ta te tema või välja üle");
    put(
        "icelandic",
        "að af allt á eða ef eftir ekki en er ég fyrir frá hafa hann hún hvað hvar í ég með mér meira"
            + " og okkur sem sig sér svo til um upp úr var við vera það þá þar þau þegar þeir þetta þú");
    put(
        "persian",
        "از با به بر برای تا در را که و یا این آن است بود شد شده می هم نیز هر یک ما من تو او آنها اما"
            + " اگر پس چه خود دیگر نه");
    put(
        "hebrew",
        "של את על עם הוא היא הם הן זה זאת אני אתה אנחנו לא כי אם או גם כל מה מי אל עד רק יש אין היה"
            + " היתה אשר");
    put(
        "hindi",
        "का के की में से को पर है हैं था थे थी और या एक यह वह ये वे ने भी तो ही कि जो इस उस नहीं तक"
            + " लिए कर हो");
    put(
        "vietnamese",
        "và của là có được cho trong với các những một này đó không để khi từ đã sẽ cũng như nhưng thì"
            + " mà ở ra vào");
  }

  private Stopwords() {}

  private static void put(String language, String words) {
    LISTS.put(language, List.of(words.split(" ")));
  }

  static Set<String> languages() {
    return LISTS.keySet();
  }

  /** The list of a language, with and without accents. */
  static Set<String> of(String language) {
    Set<String> words = new TreeSet<>();
    for (String word : LISTS.getOrDefault(language, List.of())) {
      words.add(word);
      words.add(Folding.fold(word));
    }
    return words;
  }
}
