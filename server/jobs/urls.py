from django.urls import path

from jobs.views import CancelView, RetryView

urlpatterns = [
    path("jobs/<int:pk>/cancel", CancelView.as_view()),
    path("jobs/<int:pk>/retry", RetryView.as_view()),
]
