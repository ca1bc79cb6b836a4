"""People and the teams that own everything."""

from django.contrib.auth.models import AbstractUser
from django.db import models


class Person(AbstractUser):
    """Someone who signs in, with how they like to see things."""

    units = models.CharField(max_length=8, choices=[("metric", "mbar kW m"), ("us", "in w.c. Btu/h ft")], default="metric")
    theme = models.CharField(
        max_length=8,
        choices=[("auto", "As the device"), ("light", "Light"), ("dark", "Dark"), ("contrast", "Bright sun")],
        default="auto",
    )


class Team(models.Model):
    """A crew; every job belongs to one."""

    name = models.CharField(max_length=120, unique=True)
    people = models.ManyToManyField(Person, through="Membership", related_name="teams")


class Membership(models.Model):
    """A person in a team."""

    person = models.ForeignKey(Person, models.CASCADE)
    team = models.ForeignKey(Team, models.CASCADE)

    class Meta:
        """One membership a person and team."""

        constraints = [models.UniqueConstraint(fields=["person", "team"], name="one_membership")]
