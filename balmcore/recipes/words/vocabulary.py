"""The words of recipes beside names: numbers, measures, praise, forms, fillers and method.

A word that is in none of these, and in no name, is not understood, and is said to be so.
"""


def words_of(text: str) -> frozenset[str]:
    """The words of a text."""
    return frozenset(text.split())


NUMBERS = {
    "one": 1.0, "two": 2.0, "three": 3.0, "four": 4.0, "five": 5.0, "six": 6.0, "seven": 7.0, "eight": 8.0,
    "nine": 9.0, "ten": 10.0, "eleven": 11.0, "twelve": 12.0, "thirteen": 13.0, "fourteen": 14.0, "fifteen": 15.0,
    "sixteen": 16.0, "seventeen": 17.0, "eighteen": 18.0, "nineteen": 19.0, "twenty": 20.0, "thirty": 30.0,
    "forty": 40.0, "fifty": 50.0, "sixty": 60.0, "seventy": 70.0, "eighty": 80.0, "ninety": 90.0, "hundred": 100.0,
    "couple": 2.0, "few": 3.0,
}  # fmt: skip
FRACTIONS = {
    "half": 0.5, "halves": 0.5, "third": 1 / 3, "thirds": 1 / 3, "quarter": 0.25, "quarters": 0.25,
    "fourth": 0.25, "fourths": 0.25, "fifth": 0.2, "fifths": 0.2, "sixth": 1 / 6, "sixths": 1 / 6,
    "eighth": 0.125, "eighths": 0.125, "tenth": 0.1, "tenths": 0.1,
}  # fmt: skip
# Measures by how they are written; single letters keep their case: T is a tablespoon, t a teaspoon.
UNITS = {
    unit: name
    for name, units in {
        "kg": "kilogram kilograms kilo kilos kg kgs",
        "g": "g gm gms gr grs gram grams gramme grammes",
        "mg": "mg milligram milligrams",
        "oz": "oz ozs ounce ounces",
        "lb": "lb lbs pound pounds",
        "ml": "ml mls mil mils cc millilitre millilitres milliliter milliliters",
        "cl": "cl centilitre centilitres centiliter centiliters",
        "dl": "dl decilitre decilitres deciliter deciliters",
        "l": "l litre litres liter liters",
        "pint": "pint pints",
        "gill": "gill gills",
        "quart": "quart quarts qt qts",
        "cup": "cup cups cupful cupfuls c",
        "tbsp": "tbsp tbsps tbs tbl tb tablespoon tablespoons tablespoonful tablespoonfuls",
        "tsp": "tsp tsps teaspoon teaspoons teaspoonful teaspoonfuls",
        "part": "part parts",
        "percent": "percent pct percents",
    }.items()
    for unit in units.split()
}
UNKNOWN_UNIT = "?"  # before a word that stands where a measure would
# How a measure is written where it is said again.
MEASURES = {
    "percent": "%",
    "drop": "drops",
    "capsule": "capsules",
    "dropper": "droppers",
    "part": "parts",
    "fl_oz": "fl oz",
    "bare": "",
}
SHARES = ("part", "percent", "share")
# Those of one dimension, which may be the two ends of a range.
MASSES = frozenset(("kg", "g", "mg", "oz", "lb"))
VOLUMES = frozenset(("ml", "cl", "dl", "l", "cup", "tbsp", "tsp", "fl_oz", "pint", "gill", "quart"))
LETTERS = {"T": "tbsp", "t": "tsp", "c": "cup", "C": "cup", "G": "g", "L": "l"}
COUNTED = {
    word: name
    for name, words in {
        "drop": "drop drops gtt gtts",
        "capsule": "capsule capsules caps cap",
        "dropper": "dropper droppers dropperful dropperfuls droppersful pipette pipettes pipetteful",
    }.items()
    for word in words.split()
}
# Words that are no measure, as (millilitres, grams): one of them is known, roughly.
VAGUE: dict[str, tuple[float | None, float | None]] = {
    "squeeze": (2.0, None), "squirt": (2.0, None), "splash": (5.0, None), "dash": (0.6, None),
    "drizzle": (5.0, None), "glug": (15.0, None), "pinch": (None, 0.3), "knob": (None, 15.0),
    "handful": (None, 30.0), "spoonful": (12.0, None), "spoon": (12.0, None), "blob": (None, 5.0),
    "dollop": (None, 15.0), "bit": (None, 2.0), "little": (None, 2.0), "smidgen": (None, 0.2),
    "scoop": (15.0, None), "lump": (None, 15.0), "nugget": (None, 5.0), "sprinkle": (None, 0.5), "swig": (15.0, None),
    "glob": (None, 15.0),
}  # fmt: skip
HEAPED = {
    "heaping": 1.25, "heaped": 1.25, "rounded": 1.15, "scant": 0.9, "level": 1.0, "generous": 1.15, "packed": 1.1,
}  # fmt: skip
FORMS = {
    "melted": "melted", "liquid": "melted", "grated": "grated", "shredded": "grated", "shaved": "grated",
    "pellets": "pellets", "pastilles": "pellets", "beads": "pellets", "flakes": "pellets", "chips": "pellets",
    "wafers": "pellets", "buttons": "pellets", "pieces": "pellets", "chunks": "pellets", "pearls": "pellets",
    "granules": "pellets", "prills": "pellets", "shavings": "grated", "granulated": "pellets",
    "chopped": "", "solid": "", "softened": "", "powder": "", "powdered": "", "block": "", "bar": "", "soft": "",
    "loose": "pellets",
}  # fmt: skip
PRAISE = words_of("""
    best carrier certified clear coarsely cold cosmetic cosmetics deodorised deodorized ethically expeller extra fair
    favorite favourite filtered fine finely first food fresh gently golden good grade high homemade local nano natural
    nice non organic plain premium pressed pure quality raw real refined roughly sourced therapeutic trade undiluted
    unrefined unscented vegan vegetable virgin wild lovely finest grass fed range
""")
FILLERS = words_of("""
    about again contents all also amount amounts any approx approximately are around as at be big by ca circa desired
    eo for from here i if in into is it its just large level like liked medium my needed of on onto our per please
    roughly divided same size sized small so split some that the their them there these they this those use used
    using very want was we
    which wish worth yield you your only then total whole either ones
""")
METHOD = words_of("""
    add adding after air allow apply back batch bath be beat been before begins between blend blender blending boiler
    bowl bring burst bursts can chill clean cloth cloudy combine completely constantly container containers cool
    cooled cooling cover date divide do don't double down dry enjoy fill finally freezer fridge fully gives harden
    hardens has have heat heating heatproof hob hour immediately infuse jug keep label leave let lid lids low make
    makes melt melting microwave mix mixing next not occasionally off once out over overnight pan place pour pouring
    put ready recipe refrigerator remove room safe saucepan serves set setting shake should sieve simmer skin slowly
    smooth solidifies solidify spatula start starts steam steamer sterilise sterilize stick stir stirring store stove
    strain take temperature test then thicken thickens together turn until wait warm warming well when while whip
    whipping whisk whisking will wipe yields serve serving servings portion portions people person prep
    done preheat line lined spray
""")
CONTAINERS = words_of("""
    bottle bottles jar jars mold molds mould moulds pot pots stick sticks tin tins tube tubes
""")
TIMES = words_of("""
    celsius day days deg degree degrees fahrenheit hour hours hr hrs min mins minute minutes month months sec second
    seconds secs week weeks year years
""")
HEADINGS = words_of("""
    a an and baby balm balms bar bars basic body butter directions easy equipment foot for grandmother's hand healing
    ingredient ingredients instructions lip lotion melt method my need note notes oil our part phase recipe salve
    simple stage steps summer the title to water wax winter with you'll
""")
KIND_WORDS = words_of("salve balm bar bars ointment stick recipe lotion")
# What a recipe may begin with that is not its name.
NO_NAMES = words_of(
    "ingredients recipe need needed you melt mix add heat weigh combine method directions step makes yields"
)
TOTAL_WORDS = words_of("make makes yield yields total batch for size quantity altogether")
HEAD_WORDS = words_of("weight amount quantity qty in ingredient ingredients name total each wt mass volume")
NO_WISH = words_of("more less need longer heat rush idea one thermometer other way water")  # after "no", no wish
# What is mostly water, whatever else stands beside it.
WATERS = words_of("water waters juice milk hydrosol hydrolate vinegar tea broth")
# Words that say a plant itself is meant, and not the oil that was made with it.
PLANT_ITSELF = words_of("""
    fresh dried petal petals flower flowers leaf leaves herb herbs root powder roots buds blossom blossoms heads bark
    plant handful
""")
# Words that make another thing of the name beside them.
CHANGING = (WATERS | PLANT_ITSELF) - {"fresh", "dried"} | words_of("""
    extract tincture essence flavour flavouring flavor flavoring syrup sugar flour paste pulp fruit peel zest olein
    acid soap cream lotion candle polish emulsifying hydrogenated sulfated sulphated ozonated saponified hydrolysed
    powdered
""")
STEEPED = words_of("oil infused infusion macerate macerated steeped")
INFUSING = words_of("infused infusion with in of oil carrier")
# Herbs that makers steep and no table has a row of.
HERBS = """
    agrimony|alfalfa|angelica|apple mint|balm of gilead|basil|bay|bee balm|bergamot mint|betony|blackberry leaf|
    boneset|borage|burdock|butterfly pea|carrot|catnip|chaga|chickweed|chicory|chilli|chili|cleavers|clover|
    coltsfoot|coneflower|cornflower|cottonwood|cottonwood bud|cowslip|cucumber|daisy|dandelion|dock|echinacea|elder|
    elderberry|elderflower|fenugreek|feverfew|figwort|garlic|ginseng|goldenrod|gotu kola|green tea|ground ivy|
    hawthorn|heather|helichrysum|hibiscus|honeysuckle|hops|horsetail|ivy|jasmine|kelp|ladys mantle|lemon thyme|
    licorice|lilac|linden|liquorice|lovage|mallow|marshmallow|meadowsweet|motherwort|mullein|nettle|oak bark|
    oat straw|oregano|oregon grape|osmanthus|pansy|parsley|passionflower|peony|pineapple weed|plumeria|
    purple coneflower|raspberry leaf|red clover|rose geranium|rose hip|rosehip|sage|sea kelp|seaweed|self heal|
    selfheal|skullcap|solomons seal|spruce|spruce tip|stinging nettle|sweet violet|tulsi|usnea|valerian|verbena|
    vervain|vetiver root|viola|violet|walnut leaf|white willow|willow|willow bark|woundwort|yellow dock
""".replace("\n    ", "").strip()
# Plants that kitchens and herb shops sell, beside their essential oils.
SOLD_AS_PLANTS = words_of("""
    lavender lavandin peppermint spearmint cornmint rosemary thyme rose chamomile sage ginger cinnamon cassia clove
    cardamom nutmeg lemon orange lime mandarin tangerine grapefruit vanilla juniper fennel anise coriander cumin basil
    marjoram oregano balm melissa lemongrass pepper hyssop bay laurel jasmine eucalyptus geranium helichrysum pine fir
    cypress verbena myrtle yarrow angelica frankincense myrrh benzoin copaiba
""")
# How oil is infused, and not with what.
HOW_INFUSED = words_of("""
    home slow sun solar cold heat warm hot double triple freshly own pre already herb herbs herbal botanical well
    lightly strongly strained my your our the a an some any plant flower oil oils long quick slowly self
""")
# Several words with one meaning: (kind of token, value).
PHRASES: dict[tuple[str, ...], tuple[str, str]] = {
    tuple(words.split()): (kind, value)
    for kind, value, many in (
        ("UNIT", "fl_oz", "fl oz|fluid ounce|fluid ounces|fluid oz|floz"),
        ("UNIT", "percent", "per cent"),
        ("COUNT", "dropper", "dropper full|droppers full|full dropper|full droppers"),
        ("UNIT", "tbsp", "table spoon|table spoons"),
        ("UNIT", "tsp", "tea spoon|tea spoons"),
        ("VAGUE", "handful", "hand full"),
        ("WEIGHT", "", "w / w|by weight|in weight|weighed|weight|wt|by mass"),
        ("VOLUME", "", "v / v|by volume|in volume|fluid|liquid measure"),
        ("EQUAL", "", "equal parts|equal amounts|equal weights|equal quantities|in equal parts|in equal amounts|"
                      "same amounts|equal parts by weight|equal measures|equal"),
        ("EACH", "", "each|of each|apiece|each of|ea"),
        ("TOGETHER", "", "together|in all|altogether|in total|total|combined|all told|to make|for a total"),
        ("EXTRA", "optional", "optional|optionally|if you like|if liked|if desired|if you wish|if wanted|if using"),
        ("EXTRA", "extra", "extra|on top|additional|additionally"),
        ("EXTRA", "more", "more|another"),
        ("BASED", "", "of the base|of base|on the base|of the base weight|of the blend|of the mixture|of the oil phase|"
                      "of the fat phase|of the fats"),
        ("REST", "", "q s|qs|q s to|the rest|rest|the rest is|the remainder|remainder|remaining|balance|the balance|"
                     "make it up to|bring it up to|make up to|made up to|top up to|fill up to|"
                     "top up with|topped up with|fill up with|make up with|made up with|quantum satis|"
                     "enough|as much as needed|what is missing"),
        ("PER", "", "per|to the|to each|to every|for each|for every|in each|in every"),
        ("BOUND", "", "or more|or less|at least|at most|max|maximum|minimum|as needed|to taste|not more than|"
                      "no more than|no less than|not less than|more than|less than|as required|as desired|up to"),
        ("NOT", "", "instead of|rather than|in place of|no|not|without|never|"
                      "omit|omitting|leave out|free of|free from|avoid|avoiding|none|nothing"),
        ("IF", "", "if|unless|in case|otherwise|depending|for a firmer|for a softer|for a harder|for firmer|"
                   "for softer|for harder|too soft|too hard|too firm|too thick|too thin|too greasy|should it"),
        ("PRAISE", "", "extra virgin|cold pressed|food grade|cosmetic grade|or so"),
        ("RATIO_WORD", "", "in a ratio of|ratio of|ratio|in the ratio|in the ratio of|proportion|in proportion"),
        ("FILLER", "", "of your choice|of choice|to your liking|of your own"),
        ("METHOD", "", "enough for|water bath|double boiler|room temperature|bain marie"),
        ("DOZEN", "", "dozen"),
    )
    for words in many.split("|")
}  # fmt: skip
MARKS = {
    "<": "BOUND", ">": "BOUND", "≤": "BOUND", "≥": "BOUND", "±": "FILLER", "?": "BOUND",
    ",": "_COMMA", ";": "_COMMA", "&": "_AND", "+": "_PLUS", "/": "SLASH", "=": "ALT", "|": "CELL",
    "~": "FILLER", "×": "TIMES", "*": "FILLER",
    "(": "LEFT", ")": "RIGHT", "[": "LEFT", "]": "RIGHT",
}  # fmt: skip
WORDS = {
    "and": "_AND", "with": "_AND", "plus": "_PLUS", "minus": "MINUS", "less": "MINUS", "to": "TO", "ad": "TO",
    "or": "OR", "but": "_COMMA",
    "a": "A", "an": "A", "x": "TIMES", "times": "TIMES",
}  # fmt: skip
GENERIC = frozenset(
    """essential oil|essential oils|scent|scents|fragrance of choice|scent of choice|oil|oils|butter|butters|carrier
    oil|carrier oils|liquid oil|liquid oils|soft oils|vegetable oil|hard butters|soft butters|nut oil|nut oils|base
    oil|base oils|carrier|liquid""".replace("\n    ", " ").split("|")
)
