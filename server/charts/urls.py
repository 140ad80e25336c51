from django.urls import path

from charts import views

urlpatterns = [
    path("songs/<int:pk>/chart", views.ChartView.as_view()),
    *(
        path(f"songs/<int:pk>/chart.{ending}", views.ChartFileView.as_view(), {"ending": ending})
        for ending in views.WRITERS
    ),
]
