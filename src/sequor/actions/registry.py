"""All actions that there are."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from sequor.actions import correction, develop, edges, export, frame, lens, lines, proposal, view

AnyAction = Annotated[
    lines.Lay
    | lines.Move
    | lines.Become
    | lines.AddPoint
    | lines.AsLaid
    | lines.Snap
    | lines.Switch
    | lines.Weigh
    | lines.Group
    | lines.Shape
    | lines.Delete
    | lines.Clear
    | lens.ChooseLens
    | lens.Bend
    | view.ChooseFisheye
    | view.ChooseView
    | view.LookLike
    | view.KeepUprights
    | view.KeepBorder
    | view.Wish
    | view.WishAll
    | view.CarryOut
    | proposal.TakeProposal
    | develop.SetWhite
    | develop.SetExposure
    | correction.TakeAway
    | correction.HandBack
    | correction.Amount
    | correction.SwitchAngle
    | correction.Proportion
    | correction.Focal
    | correction.Way
    | correction.TakeOffer
    | frame.SetFrame
    | frame.DrawOut
    | frame.Ratio
    | frame.Simply
    | frame.Empty
    | frame.Place
    | frame.Corners
    | frame.Widen
    | frame.Framing
    | frame.MarkSubject
    | frame.ChoosePaper
    | frame.OnPaper
    | edges.TakeCorners
    | edges.TakeTouchUp
    | edges.SetHint
    | edges.SetStrips
    | edges.Draw
    | edges.MoveArea
    | edges.ChangeTouchUp
    | edges.RemoveArea
    | export.SetFormat
    | export.SetQuality
    | export.SetDepth
    | export.SetSubsampling
    | export.SetColours
    | export.SetProgressive
    | export.SetCompression
    | export.Sharpen
    | export.SetName
    | export.LeaveOut
    | export.SetSize,
    Field(discriminator="do"),
]
"""An action as it comes over the wire: told apart by ``do``."""
