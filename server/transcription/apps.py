from django.apps import AppConfig


class TranscriptionConfig(AppConfig):
    name = "transcription"

    def ready(self) -> None:
        from jobs.kinds import register

        from transcription import findings, hand_findings, hearing, log, reckoning, views

        register(hearing.KIND)
        reckoning.FINDERS.update(
            {
                what: lambda found, *asked, draw=draw: draw(found.score, *asked)
                for what, draw in views.ENGRAVERS.items()
            }
        )
        register(reckoning.KIND)
        reckoning.FINDERS.update(
            {
                "grooves": findings.groove_book,
                "passages": findings.passages_of,
                "fills": findings.fill_list,
                "sounds": findings.sounds,
                "feel": findings.feel_of,
                "hands": hand_findings.hands_of,
                reckoning.LIMBS: log.choose_limbs,
                "proposals": lambda found, *bars: hand_findings.proposals_of(
                    found, list(bars) or None
                ),
            }
        )
