//! As much of Embree 3.13's C interface as casting occlusion rays takes (`rtcore_scene.h`, `rtcore_ray.h`).

use std::ffi::{c_char, c_void};
use std::ptr;

use dustcoat_core::mesh::Piece;

#[repr(C, align(16))]
struct Ray {
    org: [f32; 3],
    tnear: f32,
    dir: [f32; 3],
    time: f32,
    tfar: f32,
    mask: u32,
    id: u32,
    flags: u32,
}

#[repr(C)]
struct Context {
    flags: u32,
    filter: *const c_void,
    inst_id: [u32; 1],
}

unsafe extern "C" {
    fn rtcNewDevice(config: *const c_char) -> *mut c_void;
    fn rtcReleaseDevice(device: *mut c_void);
    fn rtcNewScene(device: *mut c_void) -> *mut c_void;
    fn rtcReleaseScene(scene: *mut c_void);
    fn rtcNewGeometry(device: *mut c_void, kind: u32) -> *mut c_void;
    fn rtcSetNewGeometryBuffer(
        geometry: *mut c_void,
        kind: u32,
        slot: u32,
        format: u32,
        stride: usize,
        count: usize,
    ) -> *mut c_void;
    fn rtcCommitGeometry(geometry: *mut c_void);
    fn rtcAttachGeometry(scene: *mut c_void, geometry: *mut c_void) -> u32;
    fn rtcReleaseGeometry(geometry: *mut c_void);
    fn rtcCommitScene(scene: *mut c_void);
    fn rtcOccluded1(scene: *mut c_void, context: *mut Context, ray: *mut Ray);
}

const TRIANGLES: u32 = 0;
const INDEX_BUFFER: u32 = 0;
const VERTEX_BUFFER: u32 = 1;
const UINT3: u32 = 0x5003;
const FLOAT3: u32 = 0x9003;

/// A committed scene of one piece.
pub struct Scene {
    device: *mut c_void,
    scene: *mut c_void,
}

// SAFETY: Embree's scenes may be asked from any number of threads once they are committed.
unsafe impl Sync for Scene {}

impl Scene {
    pub fn of(piece: &Piece) -> Scene {
        // SAFETY: the buffers are as long as Embree was told, and are written before the geometry is committed.
        unsafe {
            let device = rtcNewDevice(ptr::null());
            assert!(!device.is_null(), "Embree starts");
            let geometry = rtcNewGeometry(device, TRIANGLES);
            let (vertices, triangles) = (piece.positions.len(), piece.triangles.len());
            let to = rtcSetNewGeometryBuffer(geometry, VERTEX_BUFFER, 0, FLOAT3, 12, vertices).cast::<[f32; 3]>();
            ptr::copy_nonoverlapping(piece.positions.as_ptr(), to, vertices);
            let to = rtcSetNewGeometryBuffer(geometry, INDEX_BUFFER, 0, UINT3, 12, triangles).cast::<[u32; 3]>();
            ptr::copy_nonoverlapping(piece.triangles.as_ptr(), to, triangles);
            rtcCommitGeometry(geometry);
            let scene = rtcNewScene(device);
            rtcAttachGeometry(scene, geometry);
            rtcReleaseGeometry(geometry);
            rtcCommitScene(scene);
            Scene { device, scene }
        }
    }

    /// Whether anything lies on the ray between `near` and `far`.
    #[inline]
    pub fn occluded(&self, org: [f32; 3], dir: [f32; 3], near: f32, far: f32) -> bool {
        let mut context = Context { flags: 0, filter: ptr::null(), inst_id: [u32::MAX] };
        let mut ray = Ray { org, tnear: near, dir, time: 0.0, tfar: far, mask: u32::MAX, id: 0, flags: 0 };
        // SAFETY: the scene is committed, context and ray are of Embree's layout and alive during the call.
        unsafe { rtcOccluded1(self.scene, &mut context, &mut ray) };
        // A hit is told by tfar = −∞.
        ray.tfar < 0.0
    }
}

impl Drop for Scene {
    fn drop(&mut self) {
        // SAFETY: both were made by `of` and are released once.
        unsafe {
            rtcReleaseScene(self.scene);
            rtcReleaseDevice(self.device);
        }
    }
}
