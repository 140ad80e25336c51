from __future__ import annotations

from rest_framework import serializers


class SessionSerializer(serializers.Serializer):
    name = serializers.CharField(read_only=True, allow_null=True)


class CredentialsSerializer(serializers.Serializer):
    name = serializers.CharField(max_length=150)
    password = serializers.CharField(max_length=200)
