/** The least and most of numbers in actions, written from the schema by bin/contract. */
export const LIMITS = {
  "amount.share": [0, 1],
  "bend.percent": [-30, 30],
  "by hand.pitch": [-60.0, 60.0],
  "by hand.roll": [-45.0, 45.0],
  "by hand.yaw": [-60.0, 60.0],
  "carry out.amount": [0, 1],
  "draw out.rect.0": [-1000000.0, 1000000.0],
  "draw out.rect.1": [-1000000.0, 1000000.0],
  "draw out.rect.2": [16, 65500],
  "draw out.rect.3": [16, 65500],
  "draw.feather": [0, 500],
  "draw.radius": [0.001, 1000000.0],
  "edges.share": [0, 1],
  "exposure.stops": [-4, 4],
  "fisheye.equivalent_mm": [3, 60],
  "frame.rect.0": [-1000000.0, 1000000.0],
  "frame.rect.1": [-1000000.0, 1000000.0],
  "frame.rect.2": [16, 65500],
  "frame.rect.3": [16, 65500],
  "looks like.mm": [8, 400],
  "move area.to.0": [-1000000.0, 1000000.0],
  "move area.to.1": [-1000000.0, 1000000.0],
  "on paper.border": [0, 100000.0],
  "on paper.ppi": [20, 2400],
  "on paper.trim": [0, 100000.0],
  "proportion.percent": [-50, 50],
  "quality.quality": [1, 100],
  "shape.shape.0": [0.001, 1000000.0],
  "shape.shape.1": [0.001, 1000000.0],
  "sharpen.amount": [0, 1],
  "size.long_edge": [1, 65500],
  "size.percent": [1, 400],
  "size.width": [1, 65500],
  "strips.strips": [1, 8],
  "subject.mark.0.0": [-1000000.0, 1000000.0],
  "subject.mark.0.1": [-1000000.0, 1000000.0],
  "subject.mark.1.0": [-1000000.0, 1000000.0],
  "subject.mark.1.1": [-1000000.0, 1000000.0],
  "take out.degrees": [-360, 360],
  "take.seed": [0, 2147483647],
  "touch-up take.seed": [0, 2147483647],
  "touch-up.amount": [0, 1],
  "touch-up.feather": [0, 500],
  "uprights.value": [0, 20],
  "weight.weight": [0.1, 10],
  "white.temperature": [2000, 25000],
  "white.tint": [-100, 100],
  "widen.room": [0.01, 2],
  "wish.amount": [0, 1],
  "wish.off_deg": [-5, 5],
} as const;

/** Of the photo's longer side: what an area is drawn with where nothing else was said. */
export const USUAL = {"brush": 0.015, "feather": 0.004} as const;

/** The share of the picture from which what is cut off on one side is much. */
export const MUCH_CUT = 0.2;

/** Lines in the frame to compose by: shares of its width and of its height. */
export const SHARES = {"thirds": [0.3333333333333333, 0.6666666666666666], "fifths": [0.2, 0.4, 0.6, 0.8], "golden": [0.3819660112501052, 0.6180339887498948], "centre": [0.5]} as const;

/** What files of each format can carry. */
export const FORMATS = {"jpeg": {"called": "JPEG", "deep": 0, "lossy": true, "profiles": true}, "png": {"called": "PNG", "deep": 16, "lossy": false, "profiles": true}, "tiff": {"called": "TIFF", "deep": 16, "lossy": false, "profiles": true}, "webp": {"called": "WebP", "deep": 0, "lossy": true, "profiles": true}, "avif": {"called": "AVIF", "deep": 10, "lossy": true, "profiles": true}, "jxl": {"called": "JPEG XL", "deep": 16, "lossy": true, "profiles": false}} as const;
