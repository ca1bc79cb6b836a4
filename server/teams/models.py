"""People and the teams that own everything."""

from django.contrib.auth.models import AbstractUser
from django.db import models

from ofen.figures.dialects import English, english, english_of


class Person(AbstractUser):
    """Someone who signs in, with how they like to see things."""

    units = models.CharField(max_length=8, choices=[("metric", "mbar kW m"), ("us", "in w.c. Btu/h ft")], default="metric")
    theme = models.CharField(
        max_length=8,
        choices=[("auto", "As the device"), ("light", "Light"), ("dark", "Dark"), ("contrast", "Bright sun")],
        default="auto",
    )
    # Which English they read; none is the one that goes with the units.
    english = models.CharField(
        max_length=8, choices=[("british", "British"), ("american", "American")], blank=True, default="", db_default=""
    )
    # The team of several that this person has chosen to work in.
    works_in = models.ForeignKey("teams.Team", models.SET_NULL, null=True, blank=True, related_name="+")

    @property
    def reads(self) -> English:
        """The English that this person reads."""
        return english(self.english) if self.english else english_of(self.units)

    @property
    def called(self) -> str:
        """What others read of who did something."""
        return self.get_full_name() or self.username


class Team(models.Model):
    """A crew; every job belongs to one."""

    name = models.CharField(max_length=120, unique=True)
    people = models.ManyToManyField(Person, through="Membership", related_name="teams")


class Membership(models.Model):
    """A person in a team, with what they may do there."""

    person = models.ForeignKey(Person, models.CASCADE)
    team = models.ForeignKey(Team, models.CASCADE)
    role = models.CharField(
        max_length=12, choices=[("lead", "Lead"), ("technician", "Technician"), ("guest", "Guest")], default="technician"
    )

    class Meta:
        """One membership a person and team; its role is one of three."""

        constraints = [
            models.UniqueConstraint(fields=["person", "team"], name="one_membership"),
            models.CheckConstraint(condition=models.Q(role__in=["lead", "technician", "guest"]), name="known_role"),
        ]


class Invitation(models.Model):
    """Somebody asked into a team, by the name they would sign in with; nothing changes before they say yes.

    Whether anybody has that name is not told to whoever asks.
    """

    TEAM_PATH = "team"

    team = models.ForeignKey(Team, models.CASCADE, related_name="invitations")
    name = models.CharField(max_length=150, db_index=True)
    role = models.CharField(max_length=12)
    by = models.ForeignKey(Person, models.CASCADE, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        """One of a name in a team; to one of three roles."""

        constraints = [
            models.UniqueConstraint(fields=["team", "name"], name="one_invitation"),
            models.CheckConstraint(condition=models.Q(role__in=["lead", "technician", "guest"]), name="known_role_asked"),
        ]
        ordering = ["name"]


class Did(models.Model):
    """Something done that leaves no other record: who, in which team, at which job, in words; never changed."""

    TEAM_PATH = "team"

    team = models.ForeignKey(Team, models.PROTECT, related_name="did")
    person = models.ForeignKey(Person, models.PROTECT, related_name="did")
    # No key: teams stand under jobs.
    job = models.UUIDField(null=True, db_index=True)
    act = models.CharField(max_length=20)
    words = models.CharField(max_length=300)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        """Read by person, in time."""

        indexes = [models.Index(fields=["team", "person", "-at"], name="did_of_a_person")]
