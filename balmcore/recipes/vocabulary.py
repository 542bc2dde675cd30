"""The words of recipes beside names: numbers, measures, praise, forms, fillers and method.

A word that is in none of these, and in no name, is not understood, and is said to be so.
"""


def _words(text: str) -> frozenset[str]:
    return frozenset(text.split())


NUMBERS = {
    "one": 1.0, "two": 2.0, "three": 3.0, "four": 4.0, "five": 5.0, "six": 6.0, "seven": 7.0, "eight": 8.0,
    "nine": 9.0, "ten": 10.0, "eleven": 11.0, "twelve": 12.0, "fifteen": 15.0, "twenty": 20.0, "thirty": 30.0,
    "forty": 40.0, "fifty": 50.0, "sixty": 60.0, "hundred": 100.0, "couple": 2.0, "few": 3.0,
}  # fmt: skip
FRACTIONS = {
    "half": 0.5, "halves": 0.5, "third": 1 / 3, "thirds": 1 / 3, "quarter": 0.25, "quarters": 0.25,
    "fourth": 0.25, "fourths": 0.25, "eighth": 0.125, "eighths": 0.125,
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
        "l": "l litre litres liter liters",
        "cup": "cup cups cupful cupfuls c",
        "tbsp": "tbsp tbsps tbs tbl tb tablespoon tablespoons tablespoonful tablespoonfuls",
        "tsp": "tsp tsps teaspoon teaspoons teaspoonful teaspoonfuls",
        "part": "part parts",
        "percent": "percent pct",
    }.items()
    for unit in units.split()
}
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
}  # fmt: skip
HEAPED = {
    "heaping": 1.25, "heaped": 1.25, "rounded": 1.15, "scant": 0.9, "level": 1.0, "generous": 1.15, "packed": 1.1,
}  # fmt: skip
FORMS = {
    "melted": "melted", "liquid": "melted", "grated": "grated", "shredded": "grated", "shaved": "grated",
    "pellets": "pellets", "pastilles": "pellets", "beads": "pellets", "flakes": "pellets", "chips": "pellets",
    "wafers": "pellets", "buttons": "pellets", "pieces": "pellets", "chunks": "pellets", "pearls": "pellets",
    "chopped": "", "solid": "", "softened": "", "powder": "", "powdered": "", "block": "", "bar": "",
}  # fmt: skip
PRAISE = _words("""
    best carrier certified clear coarsely cold cosmetic cosmetics deodorised deodorized ethically expeller extra fair
    favorite favourite filtered fine finely first food fresh gently golden good grade high homemade local nano natural
    nice non organic plain premium pressed pure quality raw real refined roughly sourced therapeutic trade undiluted
    unrefined unscented vegetable virgin wild
""")
FILLERS = _words("""
    about again all also amount amounts any approx approximately are around as at be big by ca circa desired eo for
    from here i if in into is it its just large level like liked medium my needed of on onto our per please roughly
    same size sized small so some that the their them there these they this those use used using very want was we
    which wish worth yield you your
""")
METHOD = _words("""
    add adding after air allow apply back batch bath be beat been before begins between blend blender blending boiler
    bowl bring burst bursts can chill clean cloth cloudy combine completely constantly container containers cool
    cooled cooling cover date divide do don't double down dry enjoy fill finally freezer fridge fully gives harden
    hardens has have heat heating heatproof hob hour immediately infuse jug keep label leave let lid lids low make
    makes melt melting microwave mix mixing next not occasionally off once out over overnight pan place pour pouring
    put ready recipe refrigerator remove room safe saucepan serves set setting shake should sieve simmer skin slowly
    smooth solidifies solidify spatula start starts steam steamer sterilise sterilize stick stir stirring store stove
    strain take temperature test then thicken thickens together turn until wait warm warming well when while whip
    whipping whisk whisking will wipe yields
""")
CONTAINERS = _words("""
    bottle bottles jar jars mold molds mould moulds pot pots stick sticks tin tins tube tubes
""")
TIMES = _words("""
    celsius day days deg degree degrees fahrenheit hour hours hr hrs min mins minute minutes month months sec second
    seconds secs week weeks year years
""")
HEADINGS = _words("""
    a an and baby balm balms bar bars basic body butter directions easy equipment foot for grandmother's hand healing
    ingredient ingredients instructions lip lotion melt method my need note notes oil our part phase recipe salve
    simple stage steps summer the title to water wax winter with you'll
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
        ("WEIGHT", "", "by weight|in weight|weighed|weight|wt|by mass"),
        ("VOLUME", "", "by volume|in volume|fluid|liquid measure"),
        ("EQUAL", "", "equal parts|equal amounts|equal weights|equal quantities|in equal parts|in equal amounts|"
                      "same amounts|equal parts by weight|equal measures|equal"),
        ("EACH", "", "each|of each|apiece|each of|ea"),
        ("TOGETHER", "", "together|in all|altogether|in total|total|combined|all told|to make|for a total"),
        ("EXTRA", "optional", "optional|optionally|if you like|if liked|if desired"),
        ("EXTRA", "extra", "extra|on top|additional|additionally"),
        ("PRAISE", "", "extra virgin|cold pressed|food grade|cosmetic grade|or so"),
        ("RATIO_WORD", "", "in a ratio of|ratio of|ratio|in the ratio|in the ratio of|proportion|in proportion"),
        ("METHOD", "", "water bath|double boiler|room temperature|bain marie"),
        ("DOZEN", "", "dozen"),
    )
    for words in many.split("|")
}  # fmt: skip
MARKS = {
    ",": "_COMMA", "&": "_AND", "+": "_PLUS", "/": "ALT", "=": "ALT", "~": "FILLER", "×": "TIMES", "*": "FILLER",
    "(": "LEFT", ")": "RIGHT", "[": "LEFT", "]": "RIGHT",
}  # fmt: skip
WORDS = {
    "and": "_AND", "with": "_AND", "plus": "_PLUS", "minus": "MINUS", "less": "MINUS", "to": "TO", "or": "OR",
    "a": "A", "an": "A", "x": "TIMES", "times": "TIMES",
}  # fmt: skip
GENERIC = ("essential oil", "essential oils", "scent", "fragrance of choice", "oil", "oils", "butter", "carrier oil")
