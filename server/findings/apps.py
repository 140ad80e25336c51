from django.apps import AppConfig


class FindingsConfig(AppConfig):
    name = "findings"

    def ready(self) -> None:
        from jobs.kinds import register

        from findings import by_worker, hands, readings

        register(by_worker.KIND)
        by_worker.FINDERS.update(
            {
                "grooves": readings.groove_book,
                "passages": readings.passages_of,
                "fills": readings.fill_list,
                "sounds": readings.sounds,
                "feel": readings.feel_of,
                "hands": hands.hands_of,
                "proposals": lambda found, *bars: hands.proposals_of(found, list(bars) or None),
            }
        )
