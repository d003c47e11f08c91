"""The cautions that the program always carries. No school and no setting hides them."""

CAUTIONS = (
    "Video measures suggest; they do not diagnose.",
    "Pain or loss of range means stop and see a licensed clinician.",
    "Return to throwing follows the treating clinician's plan; pitch counts and rest days follow the local league.",
    "A delivery that works for one elite body may be wrong for another.",
)
