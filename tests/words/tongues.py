"""A few sentences of Lantern Quay in many languages, and the encodings that files of them come in."""

SENTENCES = {
    "de": (
        "Über dem Hafen hängt früh der Nebel.",
        "Die Möwen schlafen noch auf der großen Mauer, und ein Schiff fährt langsam heim.",
        "Morgen wird es schöner, sagt der Wärter müde.",
    ),
    "fr": (
        "Le café crème est déjà prêt.",
        "À l'aube, la mer était calme et les pêcheurs rentraient très fatigués, mais heureux.",
        "Où êtes-vous allés cet été, près de la forêt ?",
    ),
    "es": (
        "Mañana volverá la niña del farol.",
        "El capitán pidió más café y contó otra vez la canción del año pasado.",
        "¿Dónde está el último barco? ¡Allí, detrás del muelle pequeño!",
    ),
    "pt": (
        "A canção começou no cais às três.",
        "Não há ninguém à espera, só a lanterna e o coração dos pescadores.",
        "Amanhã será também uma manhã de avião e de mãos frias.",
    ),
    "it": (
        "La città è già più buia.",
        "Perché il faro non c'è più? Così dice la gente, però nessuno lo sa.",
        "Lunedì la nave tornerà, e sarà festa.",
    ),
    "sv": (
        "Båten går från hamnen klockan åtta.",
        "Där ute är det blåsigt, och fyren lyser över de små öarna.",
        "Vi får se om vädret håller till på lördag, säger någon trött.",
    ),
    "da": (
        "Skibet går på søen i aften.",
        "Havnen er tåget, og måger følger os længe før broen.",
        "Hvad hedder øen derude? Ærø, tror jeg.",
    ),
    "fi": (
        "Tämä yö on pitkä ja hiljainen.",
        "Satamassa näkyy vielä yksi lyhty, ja meri lyö hiljaa kiviä vasten.",
        "Lähdemme täältä huomenna, jos sää sen sallii.",
    ),
    "pl": (
        "Światło gaśnie nad portem.",
        "Gdzieś daleko płynie łódź, a rybacy śpią jeszcze mocno.",
        "Jutro będzie ładniej, mówi stróż i zamyka okno od północy.",
    ),
    "cs": (
        "Žlutá loď připlula včera večer.",
        "Přístav je tichý, světlo svítí až k mostu a nikdo neví proč.",
        "Zítra půjdeme k moři, řekl mladý námořník.",
    ),
    "hu": (
        "A kikötő fölött köd ül.",
        "Hűvös az éjszaka, és a világítótorony őre még ébren van.",
        "Holnap újra kihajózunk, ha az idő jó lesz.",
    ),
    "ro": (
        "Lumina stă deasupra mării.",
        "În port e liniște, iar bătrânul pescar își cântă încet povestea.",
        "Mâine dimineață plecăm, dacă vântul ne ajută.",
    ),
    "tr": (
        "Işık limanın üstünde sönüyor.",
        "Balıkçılar hâlâ uyuyor, yalnız küçük bir kayık yavaşça geçiyor.",
        "Yarın hava güzel olacak, diyor yaşlı bekçi; şimdi çay içelim.",
    ),
    "ru": (
        "Над гаванью стоит туман.",
        "Рыбаки ещё спят, и только маленькая лодка медленно плывёт домой.",
        "Завтра будет лучше, говорит усталый сторож.",
    ),
    "uk": (
        "Над гаванню стоїть туман.",
        "Рибалки ще сплять, і лише маленький човен повільно пливе додому.",
        "Завтра буде краще, каже втомлений сторож; їжте хліб.",
    ),
    "bg": (
        "Над пристанището има мъгла.",
        "Рибарите още спят, а малката лодка бавно се прибира.",
        "Утре ще бъде по-хубаво, казва пазачът.",
    ),
    "el": (
        "Το φως σβήνει πάνω από το λιμάνι.",
        "Οι ψαράδες κοιμούνται ακόμη και μια βάρκα γυρίζει αργά.",
        "Αύριο θα είναι καλύτερα, λέει ο φύλακας.",
    ),
    "he": (
        "האור כבה מעל הנמל.",
        "הדייגים עוד ישנים, ורק סירה קטנה חוזרת לאט הביתה.",
        "מחר יהיה טוב יותר, אומר השומר העייף.",
    ),
    "ar": (
        "يطفأ الضوء فوق الميناء.",
        "ما زال الصيادون نائمين، ومركب صغير يعود ببطء إلى البيت.",
        "غدا سيكون أفضل، يقول الحارس المتعب.",
    ),
    "ja": (
        "港の灯りが消えていく。",
        "漁師たちはまだ眠っている。小さな舟だけがゆっくり帰ってくる。",
        "明日はもっといい日になるよ、と番人は言った。",
    ),
    "zh": ("港口的灯慢慢灭了。", "渔夫们还在睡觉，只有一条小船慢慢地回家。", "明天会更好，疲倦的看守人说。"),
    "ko": (
        "항구의 불빛이 꺼진다.",
        "어부들은 아직 자고 있고, 작은 배만 천천히 돌아온다.",
        "내일은 더 좋을 거라고 지친 파수꾼이 말했다.",
    ),
}
ENCODINGS = {
    **dict.fromkeys(
        ("de", "fr", "es", "pt", "it", "sv", "da", "fi"), ("iso8859_1", "cp1252", "mac_roman", "utf-16-le")
    ),
    **dict.fromkeys(("pl", "cs", "hu", "ro"), ("cp1250", "iso8859_2", "utf-16-be")),
    "tr": ("cp1254", "iso8859_9"),
    **dict.fromkeys(("ru", "bg"), ("cp1251", "koi8_r", "iso8859_5", "cp866")),
    "uk": ("cp1251", "koi8_u"),
    "el": ("cp1253", "iso8859_7"),
    "he": ("cp1255", "iso8859_8"),
    "ar": ("cp1256", "iso8859_6"),
    "ja": ("cp932", "euc_jp", "iso2022_jp", "utf-16-le"),
    "zh": ("gbk", "gb18030"),
    "ko": ("euc_kr", "cp949"),
}


def srt(lines: list[str]) -> str:
    blocks = [f"{n + 1}\n00:00:{n:02d},000 --> 00:00:{n:02d},900\n{line}\n" for n, line in enumerate(lines)]
    return "\n".join(blocks)


def files() -> list[tuple[str, str, str, bytes]]:
    """Language, encoding, the text, and its bytes: a cue, two cues, all of them, and all of them four times."""
    out = []
    for language, encodings in ENCODINGS.items():
        first, *more = SENTENCES[language]
        for encoding in encodings:
            for lines in ([first], [first, more[0]], [first, *more], [first, *more] * 4):
                text = srt(lines)
                if encoding == "cp1250" or encoding == "iso8859_2":
                    text = text.replace("ș", "ş").replace("ț", "ţ")
                try:
                    out.append((language, encoding, text, text.encode(encoding)))
                except UnicodeEncodeError:
                    continue
    return out
