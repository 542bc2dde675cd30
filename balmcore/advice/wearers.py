"""Who wears a balm, and where: names for choices, and words for sentences. The youngest age stands beside each."""

# Name, and the youngest age in years.
AUDIENCES = {
    "adult": ("Adults", 15.0),
    "sensitive": ("Sensitive skin", 15.0),
    "elderly": ("Older people", 15.0),
    "pregnant": ("In pregnancy", 15.0),
    "nursing": ("While nursing", 15.0),
    "child_6_15y": ("Children 6 to 15", 6.0),
    "child_2_6y": ("Children 2 to 6", 2.0),
    "baby_3_24m": ("Babies 3 to 24 months", 0.25),
    "newborn_0_3m": ("Newborns", 0.0),
}
FOR = {
    "adult": "for adults",
    "sensitive": "for sensitive skin",
    "elderly": "for older people",
    "pregnant": "in pregnancy",
    "nursing": "while nursing",
    "child_6_15y": "for children of 6 to 15",
    "child_2_6y": "for children of 2 to 6",
    "baby_3_24m": "for babies",
    "newborn_0_3m": "for newborns",
}
AREAS = {
    "body": "Body",
    "face": "Face",
    "lips": "Lips",
    "hands_feet": "Hands and feet",
    "spot": "A small spot",
    "eyes": "Around the eyes",
}
ON = {
    "body": "on the body",
    "face": "on the face",
    "lips": "on lips",
    "hands_feet": "on hands and feet",
    "spot": "on a small spot",
    "eyes": "around the eyes",
}
