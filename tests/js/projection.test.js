import assert from "node:assert/strict";
import test from "node:test";
import { onPlane, projected, projectionRows } from "../../velvetdrum/studio/static/js/lib/projection.js";

// A camera 100 before the plane z = 0, a pixel for each step there, about (320, 180).
const REST = { projection: [100, 0, -320, 32000, 0, 100, -180, 18000, 0, 0, -1, 100] };
const TURNED = { projection: [80, 0, -380, 32000, 10, 100, -170, 18000, 0.6, 0.1, -0.8, 100] };

test("a point is seen where its projection says, larger when nearer", () => {
  const rows = projectionRows(REST);
  assert.deepEqual(projected(rows, [10, -20, 0]).at, [330, 160]);
  assert.equal(projected(rows, [0, 0, 0]).scale, 1);
  assert.equal(projected(rows, [0, 0, 50]).scale, 2);
  assert.equal(projected(rows, [0, 0, 150]), null);
});

test("a place on a plane leads back to its point", () => {
  for (const handle of [REST, TURNED]) {
    const rows = projectionRows(handle);
    const [x, y] = onPlane(rows, projected(rows, [12, -7, 20]).at, 20);
    assert.ok(Math.abs(x - 12) < 1e-9 && Math.abs(y + 7) < 1e-9);
  }
});

test("a plane seen from its edge, and a layer without a projection, give nothing", () => {
  const edge = projectionRows({ projection: [320, 0, 100, 32000, 180, 100, 0, 18000, 1, 0, 0, 100] });
  assert.equal(onPlane(edge, [320, 180], 0), null);
  assert.equal(projectionRows({ projection: [] }), null);
  assert.equal(projectionRows(undefined), null);
});
