from django.urls import path

from jobs import health

urlpatterns = [
    path("health", health.health),
    path("ready", health.ready),
    path("metrics", health.metrics),
]
