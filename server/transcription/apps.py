from django.apps import AppConfig


class TranscriptionConfig(AppConfig):
    name = "transcription"

    def ready(self) -> None:
        from jobs.kinds import register

        from transcription import findings, hand_findings, hearing, reckoning

        register(hearing.KIND)
        register(reckoning.KIND)
        reckoning.FINDERS.update({
            "grooves": findings.groove_book, "passages": findings.passages_of,
            "fills": findings.fill_list, "sounds": findings.sounds, "feel": findings.feel_of,
            "hands": hand_findings.hands_of,
            "proposals": lambda found, *bars: hand_findings.proposals_of(found, list(bars) or None),
        })  # fmt: skip
