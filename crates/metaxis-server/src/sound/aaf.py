"""Writes an AAF (AMWA) of sound files and where they lie, by pyaaf2: what is written is given as JSON on the standard input.

Made of the same it is the same to the last byte: nothing in it is the time of day, or drawn by chance.
"""
import datetime
import json
import sys
import uuid

import aaf2
from aaf2.mobid import MobID

# A UMID of SMPTE ST 330 whose material is numbered by a UUID.
UMID = 0x060A2B340101010501010F1013000000
WHEN = datetime.datetime(2000, 1, 1)

own = json.load(sys.stdin)
space = uuid.UUID(own["uid"])

with aaf2.open(sys.argv[1], "w") as out:

    def mob(kind, name, what):
        made = getattr(out.create, kind)()
        made.mob_id = MobID(int=(UMID << 128) | uuid.uuid5(space, what).int)
        made.name = name
        made["CreationTime"].value = WHEN
        made["LastModified"].value = WHEN
        out.content.mobs.append(made)
        return made

    def slot(of, rate, name, number, slot_id=None):
        made = of.create_timeline_slot(rate, slot_id=slot_id)
        made.name = name
        made["PhysicalTrackNumber"].value = number
        return made

    out.header["LastModified"].value = WHEN
    said = out.header["IdentificationList"].value[0]
    said["Date"].value = WHEN
    said["GenerationAUID"].value = space
    said["ProductName"].value = said["CompanyName"].value = "Metaxis"

    whole = mob("CompositionMob", own["name"], "whole")
    whole.usage = "Usage_TopLevel"
    label = out.create.Timecode(fps=own["counts"], drop=own["drop"])
    label.start, label.length = own["start"], own["frames"]
    slot(whole, "%d/%d" % tuple(own["rate"]), "Timecode", 1).segment = label

    track = 0
    for number, file in enumerate(own["files"]):
        rate, channels = file["rate"], len(file["tracks"])
        block = channels * file["bits"] // 8
        source = mob("SourceMob", file["name"], "source %d" % number)
        facts = out.create.PCMDescriptor()
        facts["SampleRate"].value = facts["AudioSamplingRate"].value = rate
        facts["Channels"].value, facts["QuantizationBits"].value = channels, file["bits"]
        facts["BlockAlign"].value, facts["AverageBPS"].value = block, block * rate
        facts["Length"].value = file["samples"]
        facts["ContainerFormat"].value = out.dictionary.lookup_containerdef("AAF")
        there = out.create.NetworkLocator()
        there["URLString"].value = file["url"]
        facts["Locator"].append(there)
        source.descriptor = facts
        master = mob("MasterMob", file["name"], "master %d" % number)
        for channel, name in enumerate(file["tracks"], 1):
            nothing = out.create.SourceClip(media_kind="sound")
            nothing.start, nothing.length = 0, file["samples"]
            slot(source, rate, name, channel, channel).segment = nothing
            slot(master, rate, name, channel, channel).segment = source.create_source_clip(
                channel, length=file["samples"], media_kind="sound"
            )
            track += 1
            length = file["samples"] - 2 * file["handles"]
            laid = out.create.Sequence(media_kind="sound")
            slot(whole, rate, name, track).segment = laid
            laid.components.append(
                master.create_source_clip(channel, start=file["handles"], length=length, media_kind="sound")
            )
            laid.length = length
